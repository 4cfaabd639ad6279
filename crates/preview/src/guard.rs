//! Who is answered: whoever knows the token and comes from the page itself. Other pages in the same browser can send requests to
//! this machine, too, and names of other servers can be made to lead here.

use tiny_http::Request;

/// The random part of the address, and the port.
#[derive(Clone, Debug)]
pub(crate) struct Guard {
    token: String,
    port: u16,
}

/// Why somebody is not answered.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Stranger {
    /// It asks for another server.
    Host,
    /// It comes from another page.
    Origin,
    /// It does not know the token.
    Token,
}

impl Guard {
    /// A new token; `None` if the system has no random numbers.
    pub(crate) fn new(port: u16) -> Option<Self> {
        let mut bytes = [0_u8; 24];
        getrandom::fill(&mut bytes).ok()?;
        let token = bytes.iter().map(|byte| format!("{byte:02x}")).collect();
        Some(Self { token, port })
    }

    /// Where the page is.
    pub(crate) fn address(&self) -> String {
        format!("http://127.0.0.1:{}/{}/", self.port, self.token)
    }

    /// What is asked for, below the token.
    ///
    /// # Errors
    /// If it is asked by a stranger.
    pub(crate) fn path(&self, request: &Request) -> Result<String, Stranger> {
        let header = |name: &'static str| {
            let found = request.headers().iter().filter(|h| h.field.equiv(name));
            found.map(|h| h.value.as_str().to_owned()).collect::<Vec<_>>()
        };
        let hosts = [format!("127.0.0.1:{}", self.port), format!("localhost:{}", self.port)];
        if !matches!(header("Host").as_slice(), [host] if hosts.contains(host)) {
            return Err(Stranger::Host);
        }
        let own = |origin: &String| hosts.iter().any(|host| *origin == format!("http://{host}"));
        let is_foreign = |site: &String| !matches!(site.as_str(), "same-origin" | "none");
        // An address that somebody typed or clicked on comes from no page, or from another one: it reads nothing.
        let is_page = request.url().ends_with('/') && request.method() == &tiny_http::Method::Get;
        if !header("Origin").iter().all(own) || !is_page && header("Sec-Fetch-Site").iter().any(is_foreign) {
            return Err(Stranger::Origin);
        }
        let path = request.url().split(['?', '#']).next().unwrap_or_default();
        let rest = path.strip_prefix('/').and_then(|path| path.split_once('/'));
        let (token, rest) = rest.ok_or(Stranger::Token)?;
        if !is_same(token.as_bytes(), self.token.as_bytes()) {
            return Err(Stranger::Token);
        }
        Ok(rest.to_owned())
    }
}

/// Whether two texts are the same, in a time that does not say how much of them is.
fn is_same(a: &[u8], b: &[u8]) -> bool {
    a.len() == b.len() && a.iter().zip(b).fold(0, |off, (a, b)| off | (a ^ b)) == 0
}
