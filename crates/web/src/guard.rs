//! Who may talk to the application, and what its pages may do.
//!
//! It trusts whoever sits at the machine, so a web page from elsewhere must not be able to speak for them: requests with
//! a foreign Host (DNS rebinding) or, where something is changed, a foreign Origin are refused. Pages run no script but
//! the application's own files.

use actix_web::body::{EitherBody, MessageBody};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::header::{self, HeaderMap, HeaderName, HeaderValue};
use actix_web::http::{Method, StatusCode};
use actix_web::middleware::Next;
use actix_web::{Error, HttpResponse, web};

use crate::Shared;

const POLICY: &str = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' blob: data:; \
     font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

/// The middleware.
pub async fn check<B: MessageBody + 'static>(
    request: ServiceRequest,
    next: Next<B>,
) -> Result<ServiceResponse<EitherBody<B>>, Error> {
    let hosts = request.app_data::<web::Data<Shared>>().map(|s| s.settings.hosts.clone()).unwrap_or_default();
    if let Some(refusal) = refusal(&request, &hosts) {
        let answer = HttpResponse::build(StatusCode::FORBIDDEN).content_type("text/plain; charset=utf-8").body(refusal);
        let mut response = request.into_response(answer).map_into_right_body();
        protect(response.headers_mut());
        return Ok(response);
    }
    let mut response = next.call(request).await?.map_into_left_body();
    protect(response.headers_mut());
    Ok(response)
}

fn refusal(request: &ServiceRequest, hosts: &[String]) -> Option<&'static str> {
    let text = |name: HeaderName| request.headers().get(name).and_then(|v| v.to_str().ok());
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
