//! Signing in, where a password is asked for.

use actix_web::http::header;
use actix_web::{HttpRequest, HttpResponse, post, route, web};
use amber_lab::LabError;
use askama::Template;
use serde::Deserialize;

use super::html;
use crate::Shared;
use crate::error::{WebError, first_upper};
use crate::proxied::Client;

#[derive(Template)]
#[template(path = "pages/sign_in.html")]
struct SignIn {
    version: &'static str,
    /// What went wrong the last time.
    problem: String,
}

impl SignIn {
    fn new(problem: String) -> Self {
        Self { version: crate::assets::version(), problem }
    }
}

/// The cookies of a request.
pub fn cookies(headers: &header::HeaderMap) -> &str {
    headers.get(header::COOKIE).and_then(|v| v.to_str().ok()).unwrap_or_default()
}

#[route("/sign-in", method = "GET", method = "HEAD")]
pub async fn show() -> Result<HttpResponse, WebError> {
    html(&SignIn::new(String::new()))
}

#[derive(Deserialize)]
pub struct Given {
    password: String,
}

#[post("/sign-in")]
pub async fn sign_in(
    shared: web::Data<Shared>,
    request: HttpRequest,
    given: web::Form<Given>,
) -> Result<HttpResponse, WebError> {
    let Client { address: from, is_secure } = Client::of(&request, &shared.settings.proxies);
    let trying = shared.clone();
    let tried = web::block(move || match &trying.settings.password {
        Some(password) => trying.sessions.sign_in(password, &given.password, from),
        None => Err(WebError::NoPage),
    });
    match tried.await.map_err(|_| WebError::Lab(LabError::Broken))? {
        Ok(cookie) => Ok(HttpResponse::SeeOther()
            .insert_header((header::LOCATION, "/"))
            .insert_header((header::SET_COOKIE, if is_secure { cookie + "; Secure" } else { cookie }))
            .finish()),
        Err(error @ (WebError::Password | WebError::Throttled)) => {
            let page = SignIn::new(first_upper(&error.to_string())).render()?;
            let status = actix_web::ResponseError::status_code(&error);
            Ok(HttpResponse::build(status).content_type("text/html; charset=utf-8").body(page))
        }
        Err(error) => Err(error),
    }
}

#[post("/sign-out")]
pub async fn sign_out(shared: web::Data<Shared>, request: HttpRequest) -> HttpResponse {
    let cookie = shared.sessions.sign_out(cookies(request.headers()));
    HttpResponse::SeeOther()
        .insert_header((header::LOCATION, "/sign-in"))
        .insert_header((header::SET_COOKIE, cookie))
        .finish()
}
