//! Secrets that must be read again, as those of authenticators, sealed with a key that is not in the database.

use crate::Error;
use chacha20poly1305::{
    ChaCha20Poly1305, KeyInit as _,
    aead::{Aead as _, Payload},
};
use rand::Rng as _;
use std::{fmt, str::FromStr};

/// What begins a sealed secret; no plain one does.
const MARK: &str = "sealed:";
/// Bytes of a nonce; by chance, which is enough for the few secrets there are.
const NONCE: usize = 12;

/// Seals with a key where one was given; else secrets are kept as they are.
#[derive(Clone, Default)]
pub struct Seal(Option<Box<[u8; 32]>>);

impl fmt::Debug for Seal {
    fn fmt(&self, to: &mut fmt::Formatter<'_>) -> fmt::Result {
        to.write_str(if self.0.is_some() { "Seal(a key)" } else { "Seal(none)" })
    }
}

impl FromStr for Seal {
    type Err = String;

    /// A key of 32 bytes as 64 hexadecimal digits.
    fn from_str(text: &str) -> Result<Self, String> {
        let wrong = || "a key is 64 hexadecimal digits, as “openssl rand -hex 32” prints them".to_owned();
        let bytes = from_hex(text.trim()).ok_or_else(wrong)?;
        Ok(Self(Some(Box::new(<[u8; 32]>::try_from(bytes).map_err(|_| wrong())?))))
    }
}

impl Seal {
    fn cipher(&self) -> Option<ChaCha20Poly1305> {
        self.0.as_ref().map(|key| ChaCha20Poly1305::new(&(**key).into()))
    }

    /// Whether a secret is kept sealed.
    pub(crate) fn is_closed(kept: &str) -> bool {
        kept.starts_with(MARK)
    }

    /// A secret as it is kept. `whose` is bound to it, so that it is worth nothing in another one's row.
    pub(crate) fn close(&self, secret: &str, whose: i32) -> Result<String, Error> {
        let Some(cipher) = self.cipher() else { return Ok(secret.to_owned()) };
        let nonce: [u8; NONCE] = rand::rng().random();
        let whose = whose.to_be_bytes();
        let sealed = cipher.encrypt(&nonce.into(), Payload { msg: secret.as_bytes(), aad: &whose });
        let sealed = sealed.map_err(|_| Error::Sealed)?;
        Ok(format!("{MARK}{}", crate::accounts::hex(&[&nonce[..], &sealed].concat())))
    }

    /// The secret that is kept so.
    pub(crate) fn open(&self, kept: &str, whose: i32) -> Result<String, Error> {
        let Some(sealed) = kept.strip_prefix(MARK) else { return Ok(kept.to_owned()) };
        let cipher = self.cipher().ok_or(Error::Sealed)?;
        let bytes = from_hex(sealed).filter(|bytes| bytes.len() > NONCE).ok_or(Error::Sealed)?;
        let (nonce, sealed) = bytes.split_at(NONCE);
        let nonce: [u8; NONCE] = nonce.try_into().map_err(|_| Error::Sealed)?;
        let whose = whose.to_be_bytes();
        let plain = cipher.decrypt(&nonce.into(), Payload { msg: sealed, aad: &whose }).map_err(|_| Error::Sealed)?;
        String::from_utf8(plain).map_err(|_| Error::Sealed)
    }
}

fn from_hex(text: &str) -> Option<Vec<u8>> {
    let digits: Vec<u8> =
        text.chars().map(|c| c.to_digit(16).and_then(|digit| u8::try_from(digit).ok())).collect::<Option<_>>()?;
    digits.len().is_multiple_of(2).then(|| digits.chunks(2).map(|pair| pair[0] << 4 | pair[1]).collect())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_sealed_secret_opens_with_its_key_in_its_row_only() {
        let seal: Seal = "0f".repeat(32).parse().unwrap();
        let other: Seal = "f0".repeat(32).parse().unwrap();
        let kept = seal.close("SECRET", 7).unwrap();
        assert!(kept.starts_with(MARK) && !kept.contains("SECRET"));
        assert_ne!(kept, seal.close("SECRET", 7).unwrap());
        assert_eq!(seal.open(&kept, 7).unwrap(), "SECRET");
        for (seal, whose) in [(&seal, 8), (&other, 7), (&Seal::default(), 7)] {
            assert!(matches!(seal.open(&kept, whose), Err(Error::Sealed)));
        }
        assert_eq!(seal.open("PLAIN", 7).unwrap(), "PLAIN", "what was kept before there was a key");
        assert_eq!(format!("{seal:?}"), "Seal(a key)", "no log tells it");
        for wrong in ["", "0f", &"0g".repeat(32), &"0f".repeat(33)] {
            assert!(wrong.parse::<Seal>().is_err(), "{wrong}");
        }
    }
}
