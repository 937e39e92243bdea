//! The properties of an XMP packet that concern us, as they were found.

use std::collections::BTreeMap;

use amber_core::{Development, Stock};
use quick_xml::NsReader;
use quick_xml::events::{BytesStart, Event};
use quick_xml::name::ResolveResult;

use super::caption::Caption;
use super::packet::{DEVELOPMENT, NAME, NAMESPACE, ORIGINAL, PROOFS, Packet, STOCK, Travelling};
use crate::error::FileError;

const WORDS: &str = "http://purl.org/dc/elements/1.1/";
const NOTE: &str = "http://ns.adobe.com/xmp/note/";

/// Texts by namespace and name: one, or those of a list.
#[derive(Debug, Default)]
pub struct Properties {
    found: BTreeMap<(String, String), Vec<String>>,
}

fn invalid(why: impl ToString) -> FileError {
    FileError::Packet { why: why.to_string() }
}

fn is_ours(namespace: &str) -> bool {
    [NAMESPACE, WORDS, NOTE].contains(&namespace)
}

/// A namespace and a local name, as text.
fn named(resolved: ResolveResult, local: &str) -> Option<(String, String)> {
    let ResolveResult::Bound(namespace) = resolved else { return None };
    let namespace: &str = namespace.as_ref();
    is_ours(namespace).then(|| (namespace.to_owned(), local.to_owned()))
}

impl Properties {
    /// Reads a packet.
    pub fn read(xml: &str) -> Result<Self, FileError> {
        let mut reader = NsReader::from_str(xml);
        let mut read = Self::default();
        // the property around, how deep in it we are, and the text so far
        let mut around: Option<((String, String), usize)> = None;
        let mut text = String::new();
        loop {
            match reader.read_event().map_err(invalid)? {
                Event::Eof => return Ok(read),
                Event::Start(start) => {
                    read.attributes(&reader, &start)?;
                    text.clear();
                    match &mut around {
                        Some((_, depth)) => *depth += 1,
                        None => {
                            let (resolved, local) = reader.resolver().resolve_element(start.name());
                            around = named(resolved, local.as_ref()).map(|name| (name, 0));
                        }
                    }
                }
                Event::Empty(start) => read.attributes(&reader, &start)?,
                Event::Text(part) if around.is_some() => text += &part.xml10_content(),
                Event::CData(part) if around.is_some() => text += &part,
                Event::GeneralRef(entity) if around.is_some() => {
                    let written = format!("&{};", &*entity);
                    text += &quick_xml::escape::unescape(&written).map_err(invalid)?;
                }
                Event::End(_) => {
                    if let Some((name, depth)) = &mut around {
                        if !text.trim().is_empty() {
                            read.found.entry(name.clone()).or_default().push(std::mem::take(&mut text));
                        }
                        text.clear();
                        match depth.checked_sub(1) {
                            Some(less) => *depth = less,
                            None => around = None,
                        }
                    }
                }
                _ => {}
            }
        }
    }

    fn attributes(&mut self, reader: &NsReader<&[u8]>, start: &BytesStart) -> Result<(), FileError> {
        for attribute in start.attributes() {
            let attribute = attribute.map_err(invalid)?;
            let (resolved, local) = reader.resolver().resolve_attribute(attribute.key);
            if let Some(name) = named(resolved, local.as_ref()) {
                let text = quick_xml::escape::unescape(&attribute.value).map_err(invalid)?.into_owned();
                self.found.entry(name).or_default().push(text);
            }
        }
        Ok(())
    }

    /// Adds what another packet of the same file says.
    pub fn join(&mut self, other: Self) {
        self.found.extend(other.found);
    }

    fn list(&self, namespace: &str, name: &str) -> &[String] {
        self.found.get(&(namespace.to_owned(), name.to_owned())).map_or(&[], Vec::as_slice)
    }

    fn text(&self, namespace: &str, name: &str) -> &str {
        self.list(namespace, name).first().map_or("", String::as_str)
    }

    /// The name of the rest of a packet that was too long for one segment.
    pub fn rest(&self) -> &str {
        self.text(NOTE, "HasExtendedXMP")
    }

    /// What it says to us.
    pub fn packet(&self) -> Result<Packet, FileError> {
        let words = |name: &str| self.text(WORDS, name).to_owned();
        let caption = Caption { title: words("title"), caption: words("description"), copyright: words("rights") };
        let development = self.text(NAMESPACE, DEVELOPMENT);
        if development.is_empty() {
            return Ok(Packet { caption, travelling: None });
        }
        let stock = self.text(NAMESPACE, STOCK);
        let stock = if stock.is_empty() { None } else { Some(Stock::from_json(stock).map_err(invalid)?) };
        let travelling = Travelling {
            original: self.text(NAMESPACE, ORIGINAL).to_owned(),
            name: self.text(NAMESPACE, NAME).to_owned(),
            development: Development::from_json(development).map_err(invalid)?,
            stock,
            proofs: self.list(NAMESPACE, PROOFS).to_vec(),
        };
        Ok(Packet { caption, travelling: Some(travelling) })
    }
}

impl Packet {
    /// Reads a packet; what is of others is left alone.
    pub fn read(xml: &str) -> Result<Self, FileError> {
        Properties::read(xml)?.packet()
    }
}
