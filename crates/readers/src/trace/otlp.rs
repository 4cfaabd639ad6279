//! OTLP JSON (OpenTelemetry Protocol 1, JSON Protobuf encoding), span by span: nothing of a document is kept but its spans.

use super::MOST_SPANS;
use super::spans::{Access, PeerKind, Role, Span, Spans};
use serde::de::{DeserializeSeed, Deserializer, Error, IgnoredAny, MapAccess, SeqAccess, Visitor};
use serde::{Deserialize, de};
use std::fmt;

/// What attributes say of a resource or a span, as far as it is drawn.
#[derive(Default)]
pub(super) struct Attributes {
    service: Option<String>,
    peer_service: Option<String>,
    address: Option<String>,
    database: Option<String>,
    database_system: Option<String>,
    operation: Option<String>,
    destination: Option<String>,
    messaging_system: Option<String>,
    status: Option<String>,
    error: Option<String>,
}

impl Attributes {
    /// Reads one document.
    pub(super) fn take<'de, D: Deserializer<'de>>(reader: D, spans: &mut Spans) -> Result<(), D::Error> {
        reader.deserialize_map(Fields { spans, of: Of::Document, first: 0 })
    }

    fn set(&mut self, key: &str, value: String) {
        // Names of today, then those of before (OpenTelemetry semantic conventions 1.30).
        let place = match key {
            "service.name" => &mut self.service,
            "peer.service" => &mut self.peer_service,
            "server.address" | "net.peer.name" | "http.host" => &mut self.address,
            "db.namespace" | "db.name" => &mut self.database,
            "db.system.name" | "db.system" => &mut self.database_system,
            "db.operation.name" | "db.operation" => &mut self.operation,
            "messaging.destination.name" | "messaging.destination" => &mut self.destination,
            "messaging.system" => &mut self.messaging_system,
            "http.response.status_code" | "http.status_code" => &mut self.status,
            "error.type" => &mut self.error,
            _ => return,
        };
        *place = Some(value);
    }

    /// Puts what attributes say into a span.
    fn say(self, span: &mut Span, spans: &mut Spans) {
        let outside = |address: Option<String>| address.map(|name| (PeerKind::Outside, name, None));
        let peer = match (self.peer_service, self.database_system, self.destination) {
            (Some(name), ..) => Some((PeerKind::Service, name, None)),
            (_, Some(system), _) => {
                let name = self.database.unwrap_or_else(|| system.clone());
                Some((PeerKind::Store, name, Some(system)))
            }
            (_, _, Some(name)) => Some((PeerKind::Queue, name, self.messaging_system)),
            _ => outside(self.address),
        };
        if let Some((kind, name, technology)) = peer {
            span.peer_kind = kind;
            span.peer = spans.number(&name);
            span.technology = technology.map_or(0, |technology| spans.number(&technology));
        }
        span.access = match self.operation.map(|operation| operation.to_ascii_uppercase()).as_deref() {
            Some("SELECT" | "GET" | "FIND" | "QUERY" | "SCAN" | "READ") => Access::Reads,
            Some("INSERT" | "UPDATE" | "DELETE" | "MERGE" | "UPSERT" | "SET" | "PUT" | "WRITE" | "COPY") => {
                Access::Writes
            }
            _ => Access::Unknown,
        };
        span.answer = self.status.map_or(0, |status| spans.number(&status));
        if span.error > 0
            && let Some(error) = self.error.filter(|_| spans.text(span.error) == FAILED)
        {
            span.error = spans.number(&error);
        }
    }
}

/// What is said of a span that failed without saying why.
const FAILED: &str = "failed";

/// What an object is.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Of {
    Document,
    Resource,
    Scope,
}

/// The fields of an object that holds spans, some levels down. `first` is the number of the first span of the resource.
struct Fields<'s> {
    spans: &'s mut Spans,
    of: Of,
    first: usize,
}

impl<'de> Visitor<'de> for Fields<'_> {
    type Value = ();

    fn expecting(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        out.write_str(match self.of {
            Of::Document => "an object with `resourceSpans`",
            Of::Resource => "an object with a `resource` and `scopeSpans`",
            Of::Scope => "an object with a `scope` and `spans`",
        })
    }

    fn visit_map<M: MapAccess<'de>>(self, mut map: M) -> Result<(), M::Error> {
        let Self { spans, of, first } = self;
        let mut service = None;
        while let Some(key) = map.next_key::<Key>()? {
            match (of, key) {
                (Of::Document, Key::ResourceSpans) => map.next_value_seed(List { spans, of: Of::Resource })?,
                (Of::Resource, Key::ScopeSpans) => map.next_value_seed(List { spans, of: Of::Scope })?,
                (Of::Scope, Key::Spans) => map.next_value_seed(SpanList { spans })?,
                (Of::Resource, Key::Resource) => service = map.next_value::<Resource>()?.attributes.service,
                _ => _ = map.next_value::<IgnoredAny>()?,
            }
        }
        // A resource may be named behind its spans.
        if of == Of::Resource {
            let number = spans.number(service.as_deref().unwrap_or("unnamed service"));
            spans.all[first..].iter_mut().for_each(|span| span.service = number);
        }
        Ok(())
    }
}

impl<'de> DeserializeSeed<'de> for Fields<'_> {
    type Value = ();

    fn deserialize<D: Deserializer<'de>>(self, reader: D) -> Result<(), D::Error> {
        reader.deserialize_map(self)
    }
}

#[derive(Deserialize)]
#[serde(field_identifier, rename_all = "camelCase")]
enum Key {
    #[serde(alias = "resource_spans")]
    ResourceSpans,
    #[serde(alias = "scope_spans", alias = "instrumentationLibrarySpans")]
    ScopeSpans,
    Spans,
    Resource,
    #[serde(other)]
    Other,
}

#[derive(Deserialize)]
struct Resource {
    #[serde(default)]
    attributes: Attributes,
}

/// A list of objects that hold spans.
struct List<'s> {
    spans: &'s mut Spans,
    of: Of,
}

impl<'de> Visitor<'de> for List<'_> {
    type Value = ();

    fn expecting(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        out.write_str("a list")
    }

    fn visit_seq<S: SeqAccess<'de>>(self, mut list: S) -> Result<(), S::Error> {
        loop {
            let first = self.spans.all.len();
            if list.next_element_seed(Fields { spans: &mut *self.spans, of: self.of, first })?.is_none() {
                return Ok(());
            }
        }
    }
}

impl<'de> DeserializeSeed<'de> for List<'_> {
    type Value = ();

    fn deserialize<D: Deserializer<'de>>(self, reader: D) -> Result<(), D::Error> {
        reader.deserialize_seq(self)
    }
}

/// A list of spans.
struct SpanList<'s> {
    spans: &'s mut Spans,
}

impl<'de> Visitor<'de> for SpanList<'_> {
    type Value = ();

    fn expecting(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        out.write_str("a list of spans")
    }

    fn visit_seq<S: SeqAccess<'de>>(self, mut list: S) -> Result<(), S::Error> {
        while let Some(raw) = list.next_element::<Raw>()? {
            if self.spans.all.len() == MOST_SPANS {
                return Err(S::Error::custom(format!("there are more than {MOST_SPANS} spans")));
            }
            let span = raw.span(self.spans);
            self.spans.all.push(span);
        }
        Ok(())
    }
}

impl<'de> DeserializeSeed<'de> for SpanList<'_> {
    type Value = ();

    fn deserialize<D: Deserializer<'de>>(self, reader: D) -> Result<(), D::Error> {
        reader.deserialize_seq(self)
    }
}

/// A span as it is written.
#[derive(Deserialize)]
#[serde(rename_all = "camelCase")]
struct Raw {
    #[serde(alias = "trace_id")]
    trace_id: Id,
    #[serde(alias = "span_id")]
    span_id: Id,
    #[serde(default, alias = "parent_span_id")]
    parent_span_id: Id,
    #[serde(default)]
    name: String,
    #[serde(default)]
    kind: Kind,
    #[serde(default, alias = "start_time_unix_nano")]
    start_time_unix_nano: Nanos,
    #[serde(default, alias = "end_time_unix_nano")]
    end_time_unix_nano: Nanos,
    #[serde(default)]
    attributes: Attributes,
    #[serde(default)]
    links: Vec<RawLink>,
    #[serde(default)]
    status: Status,
}

#[derive(Deserialize)]
#[serde(rename_all = "camelCase")]
struct RawLink {
    #[serde(alias = "span_id")]
    span_id: Id,
}

#[derive(Deserialize, Default)]
struct Status {
    #[serde(default)]
    code: Code,
    #[serde(default)]
    message: String,
}

impl Raw {
    fn span(self, spans: &mut Spans) -> Span {
        let mut span = Span {
            trace: self.trace_id.0,
            id: self.span_id.0 as u64,
            parent: self.parent_span_id.0 as u64,
            link: self.links.first().map_or(0, |link| link.span_id.0 as u64),
            start: self.start_time_unix_nano.0,
            end: self.end_time_unix_nano.0,
            name: spans.number(&self.name),
            line: spans.line,
            role: self.kind.0,
            ..Span::default()
        };
        if self.status.code.0 {
            let message = self.status.message.lines().next().unwrap_or_default().trim();
            span.error = spans.number(if message.is_empty() { FAILED } else { message });
        }
        self.attributes.say(&mut span, spans);
        span
    }
}

/// An identifier in hexadecimal figures; what is written otherwise is told apart by a hash (FNV-1a, 128 bits).
#[derive(Default)]
struct Id(u128);

impl<'de> Deserialize<'de> for Id {
    fn deserialize<D: Deserializer<'de>>(reader: D) -> Result<Self, D::Error> {
        struct Text;
        impl Visitor<'_> for Text {
            type Value = Id;

            fn expecting(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
                out.write_str("an identifier in hexadecimal figures")
            }

            fn visit_str<E: de::Error>(self, text: &str) -> Result<Id, E> {
                let hash =
                    |hash: u128, byte: u8| (hash ^ u128::from(byte)).wrapping_mul(0x0100_0000_0000_0000_0000_013b);
                let hashed = || text.bytes().fold(0x6c62_272e_07bb_0142_62b8_2175_6295_c58d, hash);
                match text {
                    "" => Ok(Id(0)),
                    _ => Ok(Id(u128::from_str_radix(text, 16).unwrap_or_else(|_| hashed()))),
                }
            }
        }
        reader.deserialize_str(Text)
    }
}

/// Nanoseconds, as a number or as a text.
#[derive(Default)]
struct Nanos(u64);

/// A kind of span, as a number or as its name.
#[derive(Default)]
struct Kind(Role);

/// Whether a status is an error, as a number or as its name.
#[derive(Default)]
struct Code(bool);

/// Reads a number that may be written as a text.
macro_rules! number_or_text {
    ($name:ident, $expected:literal, $number:expr, $text:expr) => {
        impl<'de> Deserialize<'de> for $name {
            fn deserialize<D: Deserializer<'de>>(reader: D) -> Result<Self, D::Error> {
                struct Either;
                impl Visitor<'_> for Either {
                    type Value = $name;

                    fn expecting(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
                        out.write_str($expected)
                    }

                    fn visit_u64<E: de::Error>(self, number: u64) -> Result<$name, E> {
                        Ok($name($number(number)))
                    }

                    fn visit_f64<E: de::Error>(self, number: f64) -> Result<$name, E> {
                        Ok($name($number(number as u64)))
                    }

                    fn visit_str<E: de::Error>(self, text: &str) -> Result<$name, E> {
                        Ok($name($text(text)))
                    }
                }
                reader.deserialize_any(Either)
            }
        }
    };
}

number_or_text!(Nanos, "nanoseconds since 1970", |number| number, |text: &str| text.parse().unwrap_or(0));
number_or_text!(Kind, "a kind of span", role, role_named);
number_or_text!(Code, "a status code", |number| number == 2, |text: &str| text == "STATUS_CODE_ERROR");

fn role(number: u64) -> Role {
    match number {
        2 => Role::Server,
        3 => Role::Client,
        4 => Role::Producer,
        5 => Role::Consumer,
        _ => Role::Internal,
    }
}

fn role_named(name: &str) -> Role {
    match name.trim_start_matches("SPAN_KIND_") {
        "SERVER" => Role::Server,
        "CLIENT" => Role::Client,
        "PRODUCER" => Role::Producer,
        "CONSUMER" => Role::Consumer,
        _ => Role::Internal,
    }
}

impl<'de> Deserialize<'de> for Attributes {
    fn deserialize<D: Deserializer<'de>>(reader: D) -> Result<Self, D::Error> {
        struct All;
        impl<'de> Visitor<'de> for All {
            type Value = Attributes;

            fn expecting(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
                out.write_str("a list of attributes")
            }

            fn visit_seq<S: SeqAccess<'de>>(self, mut list: S) -> Result<Attributes, S::Error> {
                let mut attributes = Attributes::default();
                while let Some(Attribute { key, value }) = list.next_element()? {
                    if let Some(value) = value.0 {
                        attributes.set(&key, value);
                    }
                }
                Ok(attributes)
            }

            fn visit_unit<E: de::Error>(self) -> Result<Attributes, E> {
                Ok(Attributes::default())
            }
        }
        reader.deserialize_any(All)
    }
}

#[derive(Deserialize)]
struct Attribute {
    #[serde(default)]
    key: String,
    #[serde(default)]
    value: AnyValue,
}

/// A value that is one text or one number.
#[derive(Default)]
struct AnyValue(Option<String>);

impl<'de> Deserialize<'de> for AnyValue {
    fn deserialize<D: Deserializer<'de>>(reader: D) -> Result<Self, D::Error> {
        struct One;
        impl<'de> Visitor<'de> for One {
            type Value = AnyValue;

            fn expecting(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
                out.write_str("a value")
            }

            fn visit_map<M: MapAccess<'de>>(self, mut map: M) -> Result<AnyValue, M::Error> {
                let mut found = None;
                while let Some(kind) = map.next_key::<ValueKind>()? {
                    match kind {
                        ValueKind::StringValue => found = Some(map.next_value::<String>()?),
                        ValueKind::IntValue => found = Some(map.next_value::<Nanos>()?.0.to_string()),
                        ValueKind::Other => _ = map.next_value::<IgnoredAny>()?,
                    }
                }
                Ok(AnyValue(found))
            }
        }
        reader.deserialize_map(One)
    }
}

#[derive(Deserialize)]
#[serde(field_identifier, rename_all = "camelCase")]
enum ValueKind {
    #[serde(alias = "string_value")]
    StringValue,
    #[serde(alias = "int_value")]
    IntValue,
    #[serde(other)]
    Other,
}
