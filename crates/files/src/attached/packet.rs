//! An XMP packet (ISO 16684-1): the words, and the development that made the picture, in a namespace of our own.

use std::fmt::Write;

use amber_core::{Development, Stock};
use quick_xml::escape::escape;

use super::caption::Caption;

/// The namespace of what only Amber Grain writes; `docs/files.md` says what stands in it.
pub const NAMESPACE: &str = "https://ns.amber-grain.example/1/";
/// Names of the properties in it.
pub(super) const ORIGINAL: &str = "original";
pub(super) const NAME: &str = "name";
pub(super) const DEVELOPMENT: &str = "development";
pub(super) const STOCK: &str = "stock";
pub(super) const PROOFS: &str = "proofs";

/// A development on its way: in an export, or beside an original.
#[derive(Debug, Clone, PartialEq)]
pub struct Travelling {
    /// Content hash (BLAKE3, hexadecimal) of the original.
    pub original: String,
    /// The frame's name.
    pub name: String,
    pub development: Development,
    /// The stock as it was then.
    pub stock: Option<Stock>,
    /// Names of the frame's proofs.
    pub proofs: Vec<String>,
}

/// What stands in a packet.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Packet {
    pub caption: Caption,
    pub travelling: Option<Travelling>,
}

/// Characters that XML has no place for are left out.
fn written(text: &str) -> String {
    let allowed =
        |c: &char| matches!(c, '\t' | '\n' | '\r' | '\u{20}'..='\u{D7FF}' | '\u{E000}'..='\u{FFFD}' | '\u{10000}'..);
    escape(text.chars().filter(allowed).collect::<String>()).into_owned()
}

impl Packet {
    pub fn is_empty(&self) -> bool {
        self.caption.is_empty() && self.travelling.is_none()
    }

    /// The whole packet.
    pub fn to_xml(&self) -> String {
        self.with("")
    }

    /// The packet with further properties, already written.
    pub(super) fn with(&self, further: &str) -> String {
        let mut out = String::from("<?xpacket begin=\"\u{feff}\" id=\"W5M0MpCehiHzreSzNTczkc9d\"?>\n");
        out += "<x:xmpmeta xmlns:x=\"adobe:ns:meta/\">\n";
        out += "<rdf:RDF xmlns:rdf=\"http://www.w3.org/1999/02/22-rdf-syntax-ns#\">\n";
        out += "<rdf:Description rdf:about=\"\"";
        for (prefix, namespace) in [
            ("dc", "http://purl.org/dc/elements/1.1/"),
            ("xmp", "http://ns.adobe.com/xap/1.0/"),
            ("xmpNote", "http://ns.adobe.com/xmp/note/"),
            ("amber", NAMESPACE),
        ] {
            let _ = write!(out, "\n    xmlns:{prefix}=\"{namespace}\"");
        }
        out += ">\n";
        let _ = writeln!(out, "<xmp:CreatorTool>Amber Grain {}</xmp:CreatorTool>", amber_core::development::ENGINE);
        let Caption { title, caption, copyright } = &self.caption;
        for (name, text) in [("title", title), ("description", caption), ("rights", copyright)] {
            if !text.is_empty() {
                let item = format!("<rdf:li xml:lang=\"x-default\">{}</rdf:li>", written(text));
                let _ = writeln!(out, "<dc:{name}><rdf:Alt>{item}</rdf:Alt></dc:{name}>");
            }
        }
        out += further;
        if let Some(travelling) = &self.travelling {
            out += &travelling.properties();
        }
        out + "</rdf:Description>\n</rdf:RDF>\n</x:xmpmeta>\n<?xpacket end=\"w\"?>"
    }
}

impl Travelling {
    /// As properties of a packet.
    pub(super) fn properties(&self) -> String {
        let stock = self.stock.as_ref().and_then(|stock| serde_json::to_string(stock).ok()).unwrap_or_default();
        let development = self.development.to_json();
        let mut out = String::new();
        for (name, text) in
            [(ORIGINAL, &self.original), (NAME, &self.name), (DEVELOPMENT, &development), (STOCK, &stock)]
        {
            if !text.is_empty() {
                let _ = writeln!(out, "<amber:{name}>{}</amber:{name}>", written(text));
            }
        }
        if !self.proofs.is_empty() {
            let items: String = self.proofs.iter().map(|name| format!("<rdf:li>{}</rdf:li>", written(name))).collect();
            let _ = writeln!(out, "<amber:{PROOFS}><rdf:Bag>{items}</rdf:Bag></amber:{PROOFS}>");
        }
        out
    }
}

#[cfg(test)]
mod tests {
    use amber_core::Catalogue;

    use super::*;

    fn travelling() -> Travelling {
        let stock = Catalogue::first();
        Travelling {
            original: "ab".repeat(32),
            name: "Quay & <harbour>".into(),
            development: Development::new(&stock),
            stock: Some(Stock::clone(&stock)),
            proofs: vec!["Cold \"one\"".into(), "Warm".into()],
        }
    }

    #[test]
    fn what_is_written_is_read_again() {
        let caption = Caption { title: "Tide & time".into(), caption: "Two\nlines".into(), copyright: "© Ada".into() };
        let packet = Packet { caption, travelling: Some(travelling()) };
        assert_eq!(Packet::read(&packet.to_xml()).unwrap(), packet);
        let bare = Packet::default();
        assert!(bare.is_empty());
        assert_eq!(Packet::read(&bare.to_xml()).unwrap(), bare);
    }

    /// Others rewrite packets: properties as attributes, another prefix for the same namespace.
    #[test]
    fn a_packet_that_was_rewritten_is_read() {
        let development = escape(travelling().development.to_json()).into_owned();
        let xml = format!(
            "<x:xmpmeta xmlns:x='adobe:ns:meta/'><rdf:RDF xmlns:rdf='http://www.w3.org/1999/02/22-rdf-syntax-ns#'>\
             <rdf:Description rdf:about='' xmlns:g='{NAMESPACE}' g:original='cd' g:development=\"{development}\"/>\
             <rdf:Description rdf:about='' xmlns:o='https://other.example/' o:development='no'/></rdf:RDF></x:xmpmeta>"
        );
        let read = Packet::read(&xml).unwrap().travelling.unwrap();
        assert_eq!((read.original.as_str(), read.development), ("cd", travelling().development));
    }

    #[test]
    fn a_packet_that_is_none_is_told() {
        for wrong in ["<x>", "", "no xml", "<a></b>"] {
            let packet = Packet::read(wrong);
            assert!(packet.as_ref().map_or(true, Packet::is_empty), "{wrong} {packet:?}");
        }
        let broken = travelling().properties().replace("&quot;version&quot;", "&quot;vers&quot;");
        let error = Packet::read(&Packet::default().with(&broken)).unwrap_err().to_string();
        assert!(error.contains("development"), "{error}");
    }
}
