//! The guide: a page for each control, made of its declaration, and a first picture in five minutes.

use actix_web::{HttpResponse, route, web};
use amber_core::controls::{Control, Kind, Own};
use amber_core::{Station, stations};
use askama::Template;
use serde::Deserialize;

use super::html;
use crate::error::WebError;

/// A control in the index.
struct Entry {
    id: &'static str,
    label: String,
    chosen: bool,
}

/// The controls of a column in the index.
struct Heading {
    label: &'static str,
    entries: Vec<Entry>,
}

/// The columns of a station in the index.
struct Part {
    number: usize,
    name: &'static str,
    headings: Vec<Heading>,
}

/// What there is to say of a control.
struct Article {
    id: &'static str,
    label: String,
    station: &'static str,
    number: usize,
    column: &'static str,
    help: &'static str,
    darkroom: &'static str,
    acts_on: &'static str,
    takes: String,
    unit: &'static str,
    own: &'static str,
    /// Belongs to the one picture.
    of_the_picture: bool,
    masked: bool,
}

impl Article {
    fn new(control: &'static Control) -> Self {
        let own = match control.own {
            Own::Stock(_) | Own::StockChoice(_) | Own::Colour(_) => "What the stock states.",
            _ if control.picture_specific => "Nothing is done.",
            _ => "The same on every stock, unless one of your own states another.",
        };
        Self {
            id: control.id,
            label: control.full_label(),
            station: control.station.name(),
            number: control.station.number(),
            column: control.column.label,
            help: control.help,
            darkroom: control.column.darkroom,
            acts_on: control.station.acts_on(),
            takes: control.takes(),
            unit: control.unit.words(),
            own,
            of_the_picture: control.picture_specific,
            masked: control.kind == Kind::Mask,
        }
    }
}

#[derive(Template)]
#[template(path = "pages/guide.html")]
struct GuidePage {
    version: &'static str,
    parts: Vec<Part>,
    article: Option<Article>,
    count: usize,
    from: Option<i64>,
}

/// Every control, members of lists too, under its column and station.
fn parts(chosen: &str) -> Vec<Part> {
    let members = || stations::LISTS.into_iter().flat_map(|list| list.members);
    let entries = |column: &str| -> Vec<Entry> {
        let stands = |c: &&Control| c.column.id == column;
        let entry = |c: &'static Control| Entry { id: c.id, label: c.full_label(), chosen: c.id == chosen };
        stations::all().chain(members()).filter(stands).map(entry).collect()
    };
    let of = |station: Station| {
        let shade = [&stations::scene::columns::DODGE_AND_BURN];
        let shade = shade.into_iter().filter(|_| station == Station::Scene);
        let columns = stations::columns(station).iter().chain(shade);
        let headings = columns.map(|column| Heading { label: column.label, entries: entries(column.id) });
        Part {
            number: station.number(),
            name: station.name(),
            headings: headings.filter(|heading| !heading.entries.is_empty()).collect(),
        }
    };
    Station::ALL.into_iter().map(of).collect()
}

/// A control by its id; of an item of a list, the member.
fn found(id: &str) -> Option<&'static Control> {
    let members = || stations::LISTS.into_iter().flat_map(|list| list.members);
    let of_item = |id: &str| {
        let list = stations::LISTS.into_iter().find(|list| list.key_of(id).is_some())?;
        let key = list.key_of(id)?;
        list.members.iter().find(|member| list.id(key, member) == id)
    };
    stations::all().chain(members()).find(|c| c.id == id).or_else(|| of_item(id))
}

#[derive(Deserialize)]
pub struct Asked {
    #[serde(default)]
    control: String,
    /// The frame on whose bench it was opened.
    from: Option<i64>,
}

#[route("/guide", method = "GET", method = "HEAD")]
pub async fn show(asked: web::Query<Asked>) -> Result<HttpResponse, WebError> {
    let control = found(&asked.control);
    let parts = parts(control.map_or("", |c| c.id));
    let count = parts.iter().flat_map(|part| &part.headings).map(|heading| heading.entries.len()).sum();
    html(&GuidePage {
        version: crate::assets::version(),
        parts,
        article: control.map(Article::new),
        count,
        from: asked.from,
    })
}

#[derive(Template)]
#[template(path = "pages/first.html")]
struct FirstPage {
    version: &'static str,
}

/// A first picture in five minutes.
#[route("/guide/first", method = "GET", method = "HEAD")]
pub async fn first() -> Result<HttpResponse, WebError> {
    html(&FirstPage { version: crate::assets::version() })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_control_has_its_page() {
        let members: usize = stations::LISTS.iter().map(|list| list.members.len()).sum();
        let listed: Vec<&str> =
            parts("").iter().flat_map(|p| &p.headings).flat_map(|h| &h.entries).map(|entry| entry.id).collect();
        assert_eq!(listed.len(), stations::all().count() + members);
        for id in &listed {
            let article = Article::new(found(id).unwrap());
            assert!(!article.help.is_empty() && !article.darkroom.is_empty(), "{id}");
        }
        assert_eq!(found("surface.sheet.3.strength").map(|c| c.id), Some("surface.sheet.strength"));
        assert!(found("film.pusch").is_none());
    }
}
