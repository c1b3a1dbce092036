//! XML as a walk through its tags and texts. Entities that a document declares are never expanded.

use quick_xml::events::{BytesStart, Event};
use quick_xml::{Reader, XmlVersion};

/// What comes next in a document.
pub(super) enum Part<'p> {
    /// A tag opens; the attributes are asked for by name.
    Open(&'p Tag<'p>),
    /// A tag closes: its name without prefix.
    Close(&'p str),
    /// Text.
    Text(&'p str),
}

/// A tag that opens.
pub(super) struct Tag<'t> {
    start: &'t BytesStart<'t>,
    /// Its name without prefix.
    pub(super) name: &'t str,
}

impl Tag<'_> {
    /// The value of an attribute, by its name without prefix.
    pub(super) fn attribute(&self, name: &str) -> Option<String> {
        self.value(|full| local(full) == name)
    }

    /// The same, where it has the prefix too.
    pub(super) fn prefixed(&self, name: &str) -> Option<String> {
        self.value(|full| full == name)
    }

    fn value(&self, is_asked: impl Fn(&str) -> bool) -> Option<String> {
        let found = self.start.attributes().flatten().find(|attribute| is_asked(attribute.key.as_ref()))?;
        found.normalized_value(XmlVersion::Implicit1_0).ok().map(|value| value.into_owned())
    }

    /// The same, as a number.
    pub(super) fn number(&self, name: &str) -> Option<usize> {
        self.attribute(name)?.parse().ok()
    }
}

fn local(name: &str) -> &str {
    name.rsplit_once(':').map_or(name, |(_, local)| local)
}

/// Walks through a document. A tag without contents opens and closes.
pub(super) fn walk(text: &str, mut take: impl FnMut(Part<'_>)) -> Result<(), String> {
    let mut reader = Reader::from_str(text);
    loop {
        let event = reader.read_event().map_err(|error| format!("its text is damaged ({error})"))?;
        match &event {
            Event::Start(start) | Event::Empty(start) => {
                let name = start.name();
                let tag = Tag { start, name: local(name.as_ref()) };
                take(Part::Open(&tag));
                if matches!(event, Event::Empty(_)) {
                    take(Part::Close(tag.name));
                }
            }
            Event::End(end) => take(Part::Close(local(end.name().as_ref()))),
            Event::Text(text) => take(Part::Text(&text.xml10_content())),
            Event::CData(text) => take(Part::Text(&text.xml10_content())),
            Event::GeneralRef(name) => {
                let resolved = match name.resolve_char_ref() {
                    Ok(Some(letter)) => letter.to_string(),
                    _ => match &**name {
                        "amp" => "&".to_owned(),
                        "lt" => "<".to_owned(),
                        "gt" => ">".to_owned(),
                        "quot" => "\"".to_owned(),
                        "apos" => "'".to_owned(),
                        other => format!("&{other};"),
                    },
                };
                take(Part::Text(&resolved));
            }
            Event::Eof => return Ok(()),
            _ => {}
        }
    }
}
