//! Where a request comes from.

use crate::AppState;
use axum::{
    extract::{ConnectInfo, FromRequestParts},
    http::{HeaderMap, request::Parts},
};
use ipnet::IpNet;
use std::{
    convert::Infallible,
    fmt,
    net::{IpAddr, Ipv4Addr, Ipv6Addr, SocketAddr},
};

/// The address from which a request comes: that of the connection, or the one that a proxy of ours tells.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Peer(IpAddr);

impl From<IpAddr> for Peer {
    fn from(address: IpAddr) -> Self {
        Self(address.to_canonical())
    }
}

impl fmt::Display for Peer {
    fn fmt(&self, to: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.0.fmt(to)
    }
}

impl Peer {
    /// What stands for the place in a count: one household or office has as many addresses of version 6 as it likes.
    pub fn network(&self) -> IpAddr {
        match self.0 {
            IpAddr::V4(_) => self.0,
            IpAddr::V6(address) => IpAddr::V6(Ipv6Addr::from_bits(address.to_bits() & (u128::MAX << 64))),
        }
    }

    /// Reads the header from its end, for as long as who wrote it is one of our proxies: what stands before that anybody can write.
    fn behind(connection: IpAddr, headers: &HeaderMap, proxies: &[IpNet]) -> Self {
        let ours = |address: IpAddr| proxies.iter().any(|net| net.contains(&address.to_canonical()));
        let told = headers.get_all("x-forwarded-for").iter().filter_map(|value| value.to_str().ok());
        let told: Vec<&str> = told.flat_map(|line| line.split(',')).map(str::trim).collect();
        let mut peer = connection;
        for address in told.iter().rev() {
            match address.parse() {
                Ok(address) if ours(peer) => peer = address,
                _ => break,
            }
        }
        Self::from(peer)
    }
}

impl FromRequestParts<AppState> for Peer {
    type Rejection = Infallible;

    async fn from_request_parts(parts: &mut Parts, state: &AppState) -> Result<Self, Infallible> {
        let connection = parts.extensions.get::<ConnectInfo<SocketAddr>>().map(|ConnectInfo(from)| from.ip());
        let connection = connection.unwrap_or(IpAddr::V4(Ipv4Addr::UNSPECIFIED));
        Ok(Self::behind(connection, &parts.headers, &state.options.proxies))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_our_own_proxies_are_believed() {
        let proxies: Vec<IpNet> = ["10.0.0.0/8", "::1/128"].iter().map(|net| net.parse().unwrap()).collect();
        let from = |connection: &str, told: &[&'static str]| {
            let mut headers = HeaderMap::new();
            for line in told {
                headers.append("x-forwarded-for", line.parse().unwrap());
            }
            Peer::behind(connection.parse().unwrap(), &headers, &proxies).to_string()
        };
        assert_eq!(from("203.0.113.5", &["198.51.100.1"]), "203.0.113.5", "a stranger says what he likes");
        assert_eq!(from("10.1.1.1", &["198.51.100.1"]), "198.51.100.1");
        assert_eq!(from("10.1.1.1", &["8.8.8.8, 198.51.100.1"]), "198.51.100.1", "what came before is not ours");
        assert_eq!(from("10.1.1.1", &["198.51.100.1", "10.2.2.2"]), "198.51.100.1", "through two of ours");
        assert_eq!(from("10.1.1.1", &["nonsense"]), "10.1.1.1");
        assert_eq!(from("10.1.1.1", &[]), "10.1.1.1");
        assert_eq!(from("::ffff:10.1.1.1", &["198.51.100.1"]), "198.51.100.1");
        let network = |text: &str| Peer::from(text.parse::<IpAddr>().unwrap()).network().to_string();
        assert_eq!((network("2001:db8::1:2"), network("192.0.2.7")), ("2001:db8::".to_owned(), "192.0.2.7".to_owned()));
    }
}
