//! A stock from a chart: typed, read from a file, or found in a picture.

use actix_web::{HttpResponse, route, web};
use amber_matching::chart::PUBLISHED;
use askama::Template;
use serde::Deserialize;

use super::html;
use crate::error::WebError;
use crate::{Shared, blocking};

#[derive(Template)]
#[template(path = "pages/chart.html")]
struct ChartPage {
    version: &'static str,
    back: String,
    tables: Vec<(&'static str, &'static str)>,
    published: String,
    papers: Vec<(&'static str, &'static str)>,
}

#[derive(Deserialize)]
pub struct From {
    frame: Option<i64>,
}

/// Papers that a chart may have been printed on.
const PAPERS: [(&str, &str); 5] = [
    ("gloss-paper", "Brilliant"),
    ("lab-paper", "Lab"),
    ("portrait-paper", "Portrait"),
    ("old-paper", "Old"),
    ("cine-print", "Print film"),
];

#[route("/charts", method = "GET", method = "HEAD")]
pub async fn show(shared: web::Data<Shared>, from: web::Query<From>) -> Result<HttpResponse, WebError> {
    let frame = from.frame;
    let back = blocking(&shared, move |lab| {
        Ok(match frame {
            Some(frame) => format!("/frames/{}/stocks", lab.library.frame(frame)?.summary.id),
            None => "/".into(),
        })
    })
    .await?;
    let published: std::collections::BTreeMap<_, _> = PUBLISHED.iter().map(|p| (p.id, p.patches)).collect();
    html(&ChartPage {
        version: crate::assets::version(),
        back,
        tables: PUBLISHED.iter().map(|p| (p.id, p.label)).collect(),
        published: serde_json::json!(published).to_string(),
        papers: PAPERS.to_vec(),
    })
}
