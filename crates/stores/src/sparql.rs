//! SPARQL endpoints (SPARQL 1.1 Query Language, Protocol, and Query Results JSON Format). Classes and their properties are counted by
//! the endpoint; of large classes a number of instances is looked at. Every question has a limit of time and comes in pages.

mod answer;
mod questions;

use crate::{Secret, StoreError};
use answer::{Row, rows};
use base64::Engine;
use base64::prelude::BASE64_STANDARD;
use bathygram_readers::rdf::{Class, CountedOn, Property, Range, Vocabulary, is_of_language};
use std::cell::Cell;
use std::collections::{BTreeMap, BTreeSet};
use std::time::Duration;
use ureq::Agent;

/// An answer has at most this many bytes.
const LARGEST: u64 = 256 << 20;
/// This many rows are asked for at once; who answers with fewer than that, and more than `FEW`, may have a limit of its own.
const PAGE: usize = 1000;
const FEW: usize = 100;
/// This many classes are drawn, those with most instances first.
const MOST_CLASSES: usize = 200;

/// Where an endpoint is, and how it is asked.
#[derive(Clone, Debug)]
pub struct Endpoint {
    url: String,
    user: Option<String>,
    password: Option<Secret>,
    /// The named graph that is asked instead of the default one.
    pub graph: Option<String>,
    /// How long one answer may take.
    pub limit: Duration,
    /// How many instances of a class are looked at.
    pub sample: u32,
}

/// Whether a source is the address of an endpoint.
pub fn is_address(source: &str) -> bool {
    ["http://", "https://"].iter().any(|scheme| source.starts_with(scheme))
}

impl Endpoint {
    /// Reads an address, `https://user@host/path`.
    ///
    /// # Errors
    /// If there is a password in it.
    pub fn new(source: &str, password: Option<Secret>, limit: Duration, sample: u32) -> Result<Self, StoreError> {
        let (scheme, rest) = source.split_once("://").unwrap_or(("http", source));
        let end = rest.find(['/', '?', '#']).unwrap_or(rest.len());
        let (user, host) = rest[..end].rsplit_once('@').map_or((None, &rest[..end]), |(user, host)| (Some(user), host));
        if user.is_some_and(|user| user.contains(':')) {
            return Err(StoreError::Named(
                "a password on the command line can be read by others; leave it out of the address, and put it into a file for \
                 `--password-file FILE`, or into BATHYGRAM_PASSWORD"
                    .to_owned(),
            ));
        }
        let url = format!("{scheme}://{host}{}", &rest[end..]);
        Ok(Self { url, user: user.map(str::to_owned), password, graph: None, limit, sample })
    }
}

/// What an endpoint holds: the classes that a pattern of `only` chooses, by their local names or IRIs; all without patterns.
///
/// # Errors
/// If the endpoint cannot be reached, refuses, or does not answer in time.
pub fn read(endpoint: &Endpoint, only: &[String]) -> Result<Vocabulary, StoreError> {
    let config = Agent::config_builder()
        .timeout_global(Some(endpoint.limit))
        .max_redirects(0)
        .max_redirects_will_error(false)
        .http_status_as_error(false)
        .user_agent("bathygram")
        .build();
    let asker = Asker { endpoint, agent: config.into(), is_get: Cell::new(false) };
    let mut classes: BTreeMap<String, Class> = BTreeMap::new();
    let mut is_cut = false;
    for row in asker.pages(&questions::classes(only), MOST_CLASSES + 1)? {
        let (Some(iri), Some(count)) = (row.iri("c"), row.number("n")) else { continue };
        is_cut |= classes.len() >= MOST_CLASSES;
        if classes.len() < MOST_CLASSES && !is_of_language(iri) {
            let class = Class { iri: iri.to_owned(), instances: Some(count), ..Class::default() };
            classes.insert(iri.to_owned(), class);
        }
    }
    asker.parents(&mut classes)?;
    asker.describe(&mut classes)?;
    // Where only some classes are asked for, the others are named all the same.
    let known: BTreeSet<String> = classes.keys().cloned().collect();
    let is_known = |iri: &str| !only.is_empty() || known.contains(iri);
    let mut is_part = false;
    for class in classes.values_mut().filter(|class| class.instances.is_some()) {
        let instances = class.instances.unwrap_or_default();
        is_part |= instances > u64::from(endpoint.sample);
        class.properties = asker.properties(&class.iri, instances, &is_known)?;
    }
    let host = endpoint.url.split_once("://").map_or(endpoint.url.as_str(), |(_, rest)| rest);
    let name = host.split(['/', ':']).next().unwrap_or("rdf").to_owned();
    Ok(Vocabulary {
        source: endpoint.url.clone(),
        name,
        classes: classes.into_values().collect(),
        counted_on: is_part.then_some(CountedOn::Instances(u64::from(endpoint.sample))),
        cut_at: is_cut.then_some(MOST_CLASSES as u64),
        ..Vocabulary::default()
    })
}

struct Asker<'a> {
    endpoint: &'a Endpoint,
    agent: Agent,
    /// Whether the endpoint answers to GET only.
    is_get: Cell<bool>,
}

impl Asker<'_> {
    /// All rows of a question that orders its answers, up to a number.
    fn pages(&self, question: &str, most: usize) -> Result<Vec<Row>, StoreError> {
        let mut all: Vec<Row> = Vec::new();
        loop {
            let page = self.ask(&format!("{question}\nLIMIT {} OFFSET {}", PAGE.min(most - all.len()), all.len()))?;
            let count = page.len();
            all.extend(page);
            if count < FEW || all.len() >= most {
                return Ok(all);
            }
        }
    }

    /// Classes above those that are known, up to the highest.
    fn parents(&self, classes: &mut BTreeMap<String, Class>) -> Result<(), StoreError> {
        let mut new: Vec<String> = classes.keys().cloned().collect();
        while !new.is_empty() && classes.len() <= 2 * MOST_CLASSES {
            let mut found = Vec::new();
            for row in self.pages(&questions::parents(&new), 10 * PAGE)? {
                let (Some(child), Some(parent)) = (row.iri("c"), row.iri("p")) else { continue };
                if is_of_language(parent) || child == parent {
                    continue;
                }
                if !classes.contains_key(parent) {
                    classes.insert(parent.to_owned(), Class { iri: parent.to_owned(), ..Class::default() });
                    found.push(parent.to_owned());
                }
                if let Some(class) = classes.get_mut(child).filter(|class| !class.parents.iter().any(|p| p == parent)) {
                    class.parents.push(parent.to_owned());
                }
            }
            new = found;
        }
        classes.values_mut().for_each(|class| class.parents.sort());
        Ok(())
    }

    /// What is said of classes.
    fn describe(&self, classes: &mut BTreeMap<String, Class>) -> Result<(), StoreError> {
        let iris: Vec<String> = classes.keys().cloned().collect();
        for iris in iris.chunks(PAGE / 4) {
            for row in self.pages(&questions::descriptions(iris), 10 * PAGE)? {
                let Some(class) = row.iri("c").and_then(|iri| classes.get_mut(iri)) else { continue };
                let text = row.text("t").map(|text| text.chars().take(300).collect::<String>());
                let is_label = row.iri("p").is_some_and(|iri| iri.ends_with("label"));
                let place = if is_label { &mut class.label } else { &mut class.comment };
                if place.is_none() {
                    *place = text;
                }
            }
        }
        Ok(())
    }

    /// Properties of the instances of a class, or of as many of them as are looked at.
    fn properties(
        &self, class: &str, instances: u64, is_known: &dyn Fn(&str) -> bool,
    ) -> Result<Vec<Property>, StoreError> {
        let sample = self.endpoint.sample;
        let looked_at = instances.min(u64::from(sample));
        let mut found: BTreeMap<(String, Range), Property> = BTreeMap::new();
        for question in [questions::literals(class, sample), questions::links(class, sample)] {
            for row in self.pages(&question, 10 * PAGE)? {
                let Some(iri) = row.iri("p").filter(|iri| !is_of_language(iri)) else { continue };
                let range = match (row.iri("d"), row.iri("r")) {
                    (Some(datatype), _) => Range::Datatype(datatype.to_owned()),
                    (_, Some(class)) if is_known(class) && !is_of_language(class) => Range::Class(class.to_owned()),
                    _ => Range::Resource,
                };
                let [subjects, values, most] = ["n", "v", "m"].map(|name| row.number(name).unwrap_or_default());
                let is_part = looked_at < instances;
                let property = Property {
                    iri: iri.to_owned(),
                    range: range.clone(),
                    // A part says nothing of the number of all.
                    instances: (!is_part).then_some(subjects),
                    values: (!is_part).then_some(values),
                    is_in_all: subjects >= looked_at,
                    is_many: most > 1,
                };
                found
                    .entry((iri.to_owned(), range))
                    .and_modify(|own| {
                        own.is_in_all |= property.is_in_all;
                        own.is_many |= property.is_many;
                        own.instances = own.instances.zip(property.instances).map(|(a, b)| a.max(b));
                        own.values = own.values.zip(property.values).map(|(a, b)| a + b);
                    })
                    .or_insert(property);
            }
        }
        let mut all: Vec<Property> = found.into_values().collect();
        let is_literal = |property: &Property| matches!(property.range, Range::Datatype(_));
        if all.windows(2).any(|pair| pair[0].iri == pair[1].iri && pair.iter().all(is_literal)) {
            for row in self.pages(&questions::any_literals(class, sample), 10 * PAGE)? {
                let [subjects, most] = ["n", "m"].map(|name| row.number(name).unwrap_or_default());
                for own in all.iter_mut().filter(|own| row.iri("p") == Some(&own.iri) && is_literal(own)) {
                    (own.is_in_all, own.is_many) = (subjects >= looked_at, most > 1);
                }
            }
        }
        Ok(all)
    }

    fn ask(&self, question: &str) -> Result<Vec<Row>, StoreError> {
        let shown = &self.endpoint.url;
        let refused = |says: String| StoreError::Refused(format!("{shown}: {says}"));
        let mut answer = self.send(question).map_err(|why| refused(self.unreachable(&why)))?;
        if matches!(answer.status().as_u16(), 405 | 415 | 501) && !self.is_get.replace(true) {
            answer = self.send(question).map_err(|why| refused(self.unreachable(&why)))?;
        }
        let status = answer.status().as_u16();
        let target = answer.headers().get("location").and_then(|target| target.to_str().ok()).map(str::to_owned);
        let body = answer.body_mut().with_config().limit(LARGEST).read_to_string();
        let body = body.map_err(|why| refused(self.unreachable(&why)))?;
        match status {
            200..=299 => rows(&body).map_err(|why| {
                let is_page = body.trim_start().starts_with('<');
                refused(match is_page {
                    true => "it answers with a page, not with results of SPARQL; the address of an endpoint often ends in `/sparql` or `/query`".to_owned(),
                    false => format!("its answer is no JSON result of SPARQL 1.1: {why}"),
                })
            }),
            300..=399 => Err(refused(format!(
                "it has moved to {}; name that address",
                target.unwrap_or_else(|| "another address".to_owned())
            ))),
            401 | 403 => Err(refused(
                "it asks for a user and a password; write `https://user@host/…`, and put the password into a file for `--password-file FILE`, or into BATHYGRAM_PASSWORD"
                    .to_owned(),
            )),
            404 => Err(refused("there is nothing at this address; look for the endpoint's, often `/sparql` or `/query`".to_owned())),
            _ => Err(refused(format!("it refuses with {status}{}", first_words(&body)))),
        }
    }

    fn send(&self, question: &str) -> Result<ureq::http::Response<ureq::Body>, ureq::Error> {
        let mut fields = vec![("query", question)];
        fields.extend(self.endpoint.graph.iter().map(|graph| ("default-graph-uri", graph.as_str())));
        let accept = "application/sparql-results+json";
        let secret = self.endpoint.user.as_ref().map(|user| {
            let password = self.endpoint.password.as_ref().map_or("", Secret::reveal);
            format!("Basic {}", BASE64_STANDARD.encode(format!("{user}:{password}")))
        });
        if self.is_get.get() {
            let mut request = self.agent.get(&self.endpoint.url).header("accept", accept);
            for (name, value) in fields {
                request = request.query(name, value);
            }
            if let Some(secret) = secret {
                request = request.header("authorization", secret);
            }
            return request.call();
        }
        let mut request = self.agent.post(&self.endpoint.url).header("accept", accept);
        if let Some(secret) = secret {
            request = request.header("authorization", secret);
        }
        request.send_form(fields)
    }

    fn unreachable(&self, why: &ureq::Error) -> String {
        match why {
            ureq::Error::Timeout(_) => format!(
                "no answer within {} s; allow more with `--timeout SECONDS`, or ask for less with `--only` and `--sample N`",
                self.endpoint.limit.as_secs()
            ),
            ureq::Error::BodyExceedsLimit(_) => "its answer is larger than 256 MB".to_owned(),
            ureq::Error::Io(why) => format!("{why}; is the server up, and is this its address?"),
            why => format!("{why}; is the server up, and is this its address?"),
        }
    }
}

/// What a server says of an error, in short.
fn first_words(body: &str) -> String {
    let plain: String = body.chars().filter(|c| !c.is_control() || c.is_whitespace()).collect();
    let line = plain.lines().map(str::trim).find(|line| !line.is_empty() && !line.starts_with('<'));
    let words = line.map(|line| line.chars().take(200).collect::<String>());
    words.map_or(String::new(), |words| format!(": {words}"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_hold_no_password() {
        let limit = Duration::from_secs(1);
        let endpoint =
            Endpoint::new("https://eve@data.tidewatch.example/sparql?x=1", None, limit, 10).expect("an address");
        assert_eq!(endpoint.url, "https://data.tidewatch.example/sparql?x=1");
        assert_eq!(endpoint.user.as_deref(), Some("eve"));
        let why = Endpoint::new("http://eve:hunter2@x/", None, limit, 10).expect_err("a password").to_string();
        assert!(why.contains("--password-file") && !why.contains("hunter2"), "{why}");
        assert_eq!(Endpoint::new("http://x/a@b:c", None, limit, 10).expect("a path").url, "http://x/a@b:c");
    }

    #[test]
    fn errors_of_servers_are_told_in_short() {
        assert_eq!(first_words("<html>\n\nBad \u{1b}[31mquery\n"), ": Bad [31mquery");
        assert_eq!(first_words("<p>"), "");
    }
}
