//! Who stands behind a reverse proxy: its headers are believed only from the addresses that were named at the start.

use std::net::{IpAddr, Ipv4Addr};

use actix_web::HttpRequest;
use actix_web::http::header::HeaderMap;

/// Who asks.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Client {
    pub address: IpAddr,
    /// The way to the proxy is encrypted.
    pub is_secure: bool,
}

fn text<'a>(headers: &'a HeaderMap, name: &str) -> &'a str {
    headers.get(name).and_then(|value| value.to_str().ok()).unwrap_or_default()
}

impl Client {
    /// Of a request; `trusted` are the proxies whose word is taken.
    pub fn of(request: &HttpRequest, trusted: &[IpAddr]) -> Self {
        let peer = request.peer_addr().map_or(IpAddr::V4(Ipv4Addr::UNSPECIFIED), |a| a.ip());
        Self::from(peer, request.headers(), trusted)
    }

    fn from(peer: IpAddr, headers: &HeaderMap, trusted: &[IpAddr]) -> Self {
        if !trusted.contains(&peer) {
            return Self { address: peer, is_secure: false };
        }
        // each proxy adds who asked it; the last one that is none of ours is who asks
        let chain = text(headers, "x-forwarded-for").split(',').map(|part| part.trim().parse::<IpAddr>());
        let mut address = peer;
        for hop in chain.rev() {
            let Ok(hop) = hop else { break };
            address = hop;
            if !trusted.contains(&hop) {
                break;
            }
        }
        Self { address, is_secure: text(headers, "x-forwarded-proto").eq_ignore_ascii_case("https") }
    }
}

#[cfg(test)]
mod tests {
    use actix_web::http::header::{HeaderName, HeaderValue};

    use super::*;

    #[test]
    fn a_stranger_s_word_is_not_taken() {
        let mut headers = HeaderMap::new();
        for (name, value) in [("x-forwarded-for", "10.9.9.9, 203.0.113.7, 10.0.0.2"), ("x-forwarded-proto", "https")] {
            headers.insert(HeaderName::from_static(name), HeaderValue::from_static(value));
        }
        let [proxy, inner, stranger]: [IpAddr; 3] =
            ["10.0.0.1", "10.0.0.2", "198.51.100.1"].map(|a| a.parse().unwrap());
        let plain = Client::from(stranger, &headers, &[proxy]);
        assert_eq!((plain.address, plain.is_secure), (stranger, false));
        let behind = Client::from(proxy, &headers, &[proxy, inner]);
        assert_eq!((behind.address.to_string().as_str(), behind.is_secure), ("203.0.113.7", true));
    }
}
