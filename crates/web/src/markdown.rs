//! Markdown as people write it, made into HTML that can do no harm.

use pulldown_cmark::{Options, Parser, html::push_html};

/// The HTML of a text; what could run or reach out is taken away.
pub fn html(text: &str) -> String {
    let mut made = String::new();
    let extensions = Options::ENABLE_TABLES | Options::ENABLE_STRIKETHROUGH | Options::ENABLE_TASKLISTS;
    push_html(&mut made, Parser::new_ext(text, extensions));
    ammonia::Builder::default().link_rel(Some("noopener noreferrer nofollow")).clean(&made).to_string()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_are_set_and_scripts_are_not() {
        assert_eq!(html("**Oak**, not ash").trim(), "<p><strong>Oak</strong>, not ash</p>");
        let tried = html("<script>alert(1)</script><img src=x onerror=alert(1)>\n\n[go](javascript:alert(1))");
        assert!(!tried.contains("script") && !tried.contains("onerror"), "{tried}");
    }
}
