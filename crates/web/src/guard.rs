//! Who may talk to the application, and what its pages may do.
//!
//! It trusts whoever sits at the machine, so a web page from elsewhere must not be able to speak for them: requests
//! with a foreign Host (DNS rebinding) or, where something is changed, a foreign Origin are refused. Pages run no
//! script but the application's own files.

use std::time::Duration;

use actix_web::body::{EitherBody, MessageBody};
use actix_web::dev::{Payload, ServiceRequest, ServiceResponse};
use actix_web::error::PayloadError;
use actix_web::http::header::{self, HeaderMap, HeaderName, HeaderValue};
use actix_web::http::{Method, StatusCode};
use actix_web::middleware::Next;
use actix_web::rt::time::timeout;
use actix_web::{Error, HttpMessage, HttpResponse, ResponseError, web};
use futures_util::{StreamExt, stream};

use crate::api::{self, Problem};
use crate::error::WebError;
use crate::pages::sign_in::cookies;
use crate::{Settings, Shared};

const POLICY: &str = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' blob: data:; \
     font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

/// The middleware.
pub async fn check<B: MessageBody + 'static>(
    request: ServiceRequest,
    next: Next<B>,
) -> Result<ServiceResponse<EitherBody<B>>, Error> {
    let shared = request.app_data::<web::Data<Shared>>().cloned();
    let hosts = shared.as_ref().map(|s| s.settings.hosts.as_slice()).unwrap_or_default();
    let patience = shared.as_ref().map_or(Settings::default().patience, |s| s.settings.patience);
    let answer = match refusal(&request, hosts) {
        Some(refusal) => {
            let mut answer = HttpResponse::build(StatusCode::FORBIDDEN);
            match is_for_scripts(&request) {
                true => Some(api::answer(StatusCode::FORBIDDEN, refusal)),
                false => Some(answer.content_type("text/plain; charset=utf-8").body(refusal)),
            }
        }
        None => shared.and_then(|shared| signed_out(&request, &shared)),
    };
    if let Some(answer) = answer {
        let mut response = request.into_response(answer).map_into_right_body();
        protect(response.headers_mut());
        return Ok(response);
    }
    let mut request = request;
    if !matches!(*request.method(), Method::GET | Method::HEAD) {
        let body = request.take_payload();
        request.set_payload(patient(body, patience));
    }
    let mut response = next.call(request).await?.map_into_left_body();
    protect(response.headers_mut());
    Ok(response)
}

/// Whether somebody asks the interface for scripts, whose errors have a form of their own.
fn is_for_scripts(request: &ServiceRequest) -> bool {
    request.path().starts_with(api::ROOT)
}

/// A body that ends when nothing comes for too long.
fn patient(body: Payload, patience: Duration) -> Payload {
    let waited = stream::unfold(Some(body), move |body| async move {
        let mut body = body?;
        match timeout(patience, body.next()).await {
            Ok(Some(item)) => Some((item, Some(body))),
            Ok(None) => None,
            Err(_) => Some((Err(PayloadError::Io(std::io::ErrorKind::TimedOut.into())), None)),
        }
    });
    // forms ask once more after the end
    Payload::Stream { payload: Box::pin(waited.fuse()) }
}

/// The answer to who has not signed in, where a password is asked for: a page to do it, or a sentence.
fn signed_out(request: &ServiceRequest, shared: &Shared) -> Option<HttpResponse> {
    let open = request.path() == "/sign-in" || request.path().starts_with("/assets/");
    if shared.settings.password.is_none() || open || shared.sessions.know(cookies(request.headers())) {
        return None;
    }
    let page = *request.method() == Method::GET
        && request
            .headers()
            .get(header::ACCEPT)
            .is_some_and(|accepts| accepts.to_str().is_ok_and(|a| a.contains("text/html")));
    if is_for_scripts(request) {
        return Some(Problem(WebError::SignedOut).error_response());
    }
    Some(if page {
        HttpResponse::SeeOther().insert_header((header::LOCATION, "/sign-in")).finish()
    } else {
        WebError::SignedOut.error_response()
    })
}

fn refusal(request: &ServiceRequest, hosts: &[String]) -> Option<&'static str> {
    // a header that is not text is somebody else's
    let text = |name: HeaderName| request.headers().get(name).map(|v| v.to_str().unwrap_or("unreadable"));
    let host = text(header::HOST).or(request.uri().authority().map(|a| a.as_str()));
    if !host.is_some_and(|h| is_allowed(h, hosts)) {
        return Some("This address is not one of the application's own. Start it with --host to allow another name.");
    }
    if matches!(*request.method(), Method::GET | Method::HEAD) {
        return None;
    }
    let foreign_origin = text(header::ORIGIN).is_some_and(|origin| {
        let inside = origin.strip_prefix("http://").or(origin.strip_prefix("https://"));
        !inside.is_some_and(|o| Some(o) == host && is_allowed(o, hosts))
    });
    let foreign_site =
        text(HeaderName::from_static("sec-fetch-site")).is_some_and(|s| s != "same-origin" && s != "none");
    (foreign_origin || foreign_site).then_some("Another site may not change anything here.")
}

/// Loopback under any port, or a name that was allowed at the start.
fn is_allowed(host: &str, hosts: &[String]) -> bool {
    let name = match host.strip_prefix('[') {
        Some(v6) => v6.split(']').next().unwrap_or_default(),
        None => host.rsplit_once(':').map_or(host, |(name, _)| name),
    };
    matches!(name, "localhost" | "127.0.0.1" | "::1") || hosts.iter().any(|h| h.eq_ignore_ascii_case(name))
}

fn protect(headers: &mut HeaderMap) {
    for (name, value) in [
        ("content-security-policy", POLICY),
        ("x-content-type-options", "nosniff"),
        // with "no-referrer" a browser sends "Origin: null" with a form, which could not be told from a stranger
        ("referrer-policy", "same-origin"),
        ("cross-origin-resource-policy", "same-origin"),
        ("cross-origin-opener-policy", "same-origin"),
    ] {
        headers.insert(HeaderName::from_static(name), HeaderValue::from_static(value));
    }
    if !headers.contains_key(header::CACHE_CONTROL) {
        headers.insert(header::CACHE_CONTROL, HeaderValue::from_static("no-store"));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn loopback_and_allowed_names_only() {
        let allowed = vec!["studio.local".to_string()];
        for host in ["localhost:8080", "127.0.0.1", "[::1]:8080", "studio.local:80", "Studio.local"] {
            assert!(is_allowed(host, &allowed), "{host}");
        }
        for host in ["example.org", "localhost.example.org:8080", "127.0.0.1.example.org", "", "[fe80::1]:8080"] {
            assert!(!is_allowed(host, &allowed), "{host}");
        }
    }
}
