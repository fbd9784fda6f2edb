//! Markdown as people write it, made into HTML that can do no harm.

use pulldown_cmark::{Event, Options, Parser, Tag, TagEnd, html::push_html};
use snug_core::{Plan, mentions::mentions};

/// The HTML of a text; what could run or reach out is taken away.
pub fn html(text: &str) -> String {
    let mut made = String::new();
    let extensions = Options::ENABLE_TABLES | Options::ENABLE_STRIKETHROUGH | Options::ENABLE_TASKLISTS;
    push_html(&mut made, Parser::new_ext(text, extensions).map(without_pictures));
    ammonia::Builder::default().rm_tags(["img"]).link_rel(Some("noopener noreferrer nofollow")).clean(&made).to_string()
}

/// A picture as a link to it. The browser of whoever reads would fetch it by itself, from wherever the writer says, in their name.
fn without_pictures(event: Event<'_>) -> Event<'_> {
    match event {
        Event::Start(Tag::Image { link_type, dest_url, title, id }) => {
            Event::Start(Tag::Link { link_type, dest_url, title, id })
        }
        Event::End(TagEnd::Image) => Event::End(TagEnd::Link),
        event => event,
    }
}

/// The same, where those who are mentioned lead to their pages.
pub fn with_people(plan: &Plan, text: &str) -> String {
    let mut linked = String::with_capacity(text.len());
    let mut at = 0;
    for mention in mentions(plan, text) {
        let Some(entry) = plan.people.get(&mention.person) else { continue };
        linked.push_str(&text[at..mention.at.start]);
        // Markdown reads some of what a name may hold otherwise.
        let escaped = |c: char| c.is_ascii_punctuation().then_some('\\').into_iter().chain([c]);
        let name: String = entry.person.name.chars().flat_map(escaped).collect();
        linked.push_str("[@");
        linked.push_str(&name);
        linked.push_str("](/people/");
        linked.push_str(&mention.person.to_string());
        linked.push(')');
        at = mention.at.end;
    }
    linked.push_str(&text[at..]);
    html(&linked)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_are_set_and_scripts_are_not() {
        assert_eq!(html("**Oak**, not ash").trim(), "<p><strong>Oak</strong>, not ash</p>");
        let tried = html("<script>alert(1)</script><img src=x onerror=alert(1)>\n\n[go](javascript:alert(1))");
        assert!(!tried.contains("script") && !tried.contains("onerror"), "{tried}");
        let fetched = html("![leave](/sign-out) <img src=\"/events\"> ![far](https://x.test/a.png)");
        assert!(!fetched.contains("<img"), "{fetched}");
        assert!(fetched.contains("<a href=\"/sign-out\"") && fetched.contains(">leave</a>"), "{fetched}");
    }
}
