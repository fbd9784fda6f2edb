//! Styles, scripts and fonts, built into the program.

use crate::Error;
use axum::{
    extract::Path,
    http::{HeaderMap, StatusCode, header},
    response::{IntoResponse, Response},
};
use rust_embed::{EmbeddedFile, RustEmbed};

#[derive(RustEmbed)]
#[folder = "assets/"]
struct Files;

/// The scripts of the rooms, and the styles that one room alone has, each beside its templates.
#[derive(RustEmbed)]
#[folder = "src/"]
#[include = "*.js"]
#[include = "*.css"]
struct Scripts;

/// Serves a file; browsers ask again and are told that nothing changed.
pub async fn serve(Path(path): Path<String>, headers: HeaderMap) -> Result<Response, Error> {
    let file: EmbeddedFile = Files::get(&path).or_else(|| Scripts::get(&path)).ok_or(Error::NotFound)?;
    let tag = format!("\"{}\"", crate::words::hex(&file.metadata.sha256_hash()[..12]));
    let known = headers.get(header::IF_NONE_MATCH).is_some_and(|value| value.as_bytes() == tag.as_bytes());
    let caching = [(header::ETAG, tag), (header::CACHE_CONTROL, "public, max-age=300".to_owned())];
    if known {
        return Ok((StatusCode::NOT_MODIFIED, caching).into_response());
    }
    let kind = mime_guess::from_path(&path).first_or_octet_stream();
    Ok((caching, [(header::CONTENT_TYPE, kind.as_ref().to_owned())], file.data).into_response())
}
