//! Which files are taken, and pictures made small.

use image::{DynamicImage, ImageFormat, ImageReader, Limits};
use snug_core::kinds::LARGEST_FILE;
use std::io::Cursor;

/// The endings of files that are taken.
const ENDINGS: [&str; 42] = [
    "png", "jpg", "jpeg", "gif", "webp", "pdf", "odt", "ods", "odp", "docx", "xlsx", "pptx", "rtf", "txt", "md", "csv",
    "tsv", "json", "xml", "ics", "eml", "svg", "dxf", "dwg", "step", "stp", "stl", "obj", "3mf", "skp", "gcode", "nc",
    "zip", "mp3", "wav", "ogg", "mp4", "mov", "webm", "log", "tif", "tiff",
];

/// The pictures that browsers show, by the name of their format.
const PICTURES: [(ImageFormat, &str); 4] = [
    (ImageFormat::Png, "image/png"),
    (ImageFormat::Jpeg, "image/jpeg"),
    (ImageFormat::Gif, "image/gif"),
    (ImageFormat::WebP, "image/webp"),
];

/// The longest name of a file, in characters.
const LONGEST_NAME: usize = 200;

/// How wide and high a small picture is at most, in pixels.
const SMALL: u32 = 320;

/// A file as it is taken.
#[derive(Debug)]
pub struct Taken {
    /// What it is called.
    pub name: String,
    /// Its media type: of a picture that can be shown, or of what its ending says.
    pub media: String,
    /// The picture made small, where it is one.
    pub small: Option<Vec<u8>>,
}

/// The last part of a name, without what could lead elsewhere or cannot be written.
pub fn plain_name(name: &str) -> String {
    let last = name.rsplit(['/', '\\']).next().unwrap_or_default();
    let kept: String = last.chars().filter(|letter| !letter.is_control()).collect();
    let kept = kept.trim().trim_start_matches('.').to_owned();
    let over = kept.chars().count().saturating_sub(LONGEST_NAME);
    // Of a name that is too long the end stays, which says what it is.
    kept.chars().skip(over).collect()
}

/// Looks a file over. This computes: call it off the async threads.
///
/// # Errors
/// Why it is not taken, in a sentence.
pub fn take(name: &str, bytes: &[u8]) -> Result<Taken, String> {
    let name = plain_name(name);
    let ending = name.rsplit_once('.').map(|(_, ending)| ending.to_lowercase()).unwrap_or_default();
    if name.is_empty() {
        return Err("A file needs a name.".to_owned());
    }
    if bytes.is_empty() {
        return Err(format!("“{name}” is empty."));
    }
    if bytes.len() > usize::try_from(LARGEST_FILE).unwrap_or_default() {
        return Err(format!("“{name}” is larger than 25 MB."));
    }
    if !ENDINGS.contains(&ending.as_str()) {
        return Err(format!(
            "“{name}” is of a kind that is not taken here. Pictures, documents, tables, drawings, sound, film and ZIP archives are."
        ));
    }
    if infer::is_app(bytes) {
        return Err(format!("“{name}” is a program, and programs are not taken."));
    }
    let picture = infer::get(bytes).and_then(|kind| PICTURES.into_iter().find(|(_, media)| *media == kind.mime_type()));
    let small = picture.and_then(|(format, _)| smaller(bytes, format));
    let media = match (&small, picture) {
        (Some(_), Some((_, media))) => media.to_owned(),
        // What claims to be a picture and is none is handed out as bytes.
        _ => mime_guess::from_ext(&ending)
            .first()
            .filter(|guess| guess.type_() != "image")
            .map_or_else(|| "application/octet-stream".to_owned(), |guess| guess.essence_str().to_owned()),
    };
    Ok(Taken { name, media, small })
}

/// A picture made small, as JPEG, or as PNG where one sees through it; `None` where it cannot be read within bounds.
fn smaller(bytes: &[u8], format: ImageFormat) -> Option<Vec<u8>> {
    let mut limits = Limits::default();
    (limits.max_image_width, limits.max_image_height) = (Some(12_000), Some(12_000));
    limits.max_alloc = Some(128 << 20);
    let mut reader = ImageReader::with_format(Cursor::new(bytes), format);
    reader.limits(limits);
    let picture = reader.decode().ok()?;
    let small =
        if picture.width() > SMALL || picture.height() > SMALL { picture.thumbnail(SMALL, SMALL) } else { picture };
    let (small, format) = if small.color().has_alpha() {
        (small, ImageFormat::Png)
    } else {
        (DynamicImage::ImageRgb8(small.to_rgb8()), ImageFormat::Jpeg)
    };
    let mut made = Cursor::new(Vec::new());
    small.write_to(&mut made, format).ok()?;
    Some(made.into_inner())
}

/// The media type of a small picture.
pub fn media_of_small(bytes: &[u8]) -> &'static str {
    if bytes.starts_with(b"\x89PNG") { "image/png" } else { "image/jpeg" }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn png(width: u32, height: u32) -> Vec<u8> {
        let mut bytes = Cursor::new(Vec::new());
        DynamicImage::new_rgb8(width, height).write_to(&mut bytes, ImageFormat::Png).unwrap();
        bytes.into_inner()
    }

    #[test]
    fn a_picture_is_made_small_and_told_by_what_is_in_it() {
        let taken = take("C:\\drawings\\Relief v4.PNG", &png(1_200, 600)).unwrap();
        assert_eq!((taken.name.as_str(), taken.media.as_str()), ("Relief v4.PNG", "image/png"));
        let small = image::load_from_memory(&taken.small.unwrap()).unwrap();
        assert_eq!((small.width(), small.height()), (320, 160));
    }

    #[test]
    fn what_only_claims_to_be_a_picture_is_bytes() {
        let taken = take("relief.png", b"<script>alert(1)</script>").unwrap();
        assert_eq!(taken.media, "application/octet-stream");
        assert!(taken.small.is_none());
    }

    #[test]
    fn what_is_not_taken_is_said() {
        let told = |name: &str, bytes: &[u8]| take(name, bytes).unwrap_err();
        assert!(told("run.exe", b"MZ").starts_with("“run.exe” is of a kind"));
        assert!(told("notes", b"words").contains("of a kind"));
        let program = [b"\x7fELF\x02\x01\x01".as_slice(), &[0; 64]].concat();
        assert!(told("fake.pdf", &program).contains("a program"));
        assert!(told("empty.txt", b"").contains("is empty"));
        assert!(told("../..", b"x").contains("of a kind") || told("../..", b"x").contains("needs a name"));
        assert!(told("big.zip", &vec![0; 25_000_001]).contains("25 MB"));
    }
}
