//! Where something was seen, and what was found doubtful there.

use schemars::JsonSchema;
use serde::Serialize;
use std::fmt;
use std::sync::Arc;

/// A place in a source.
#[derive(Clone, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Serialize, JsonSchema)]
pub struct Seen {
    /// The file.
    pub file: Arc<str>,
    /// The sheet of a workbook that has several.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub sheet: Option<Arc<str>>,
    /// The row or line, from 1.
    pub line: u32,
    /// The column, from 1.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub column: Option<u32>,
}

impl fmt::Display for Seen {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        out.write_str(&self.file)?;
        if let Some(sheet) = &self.sheet {
            write!(out, ", sheet {sheet}, row {}", self.line)?;
            // Columns of a sheet have letters.
            return self.column.map_or(Ok(()), |column| write!(out, ", column {}", letters(column)));
        }
        // What is said of a file as a whole has no line.
        if self.line == 0 {
            return Ok(());
        }
        write!(out, ":{}", self.line)?;
        self.column.map_or(Ok(()), |column| write!(out, ":{column}"))
    }
}

/// A column as spreadsheets name it: A to Z, AA, and so on.
pub(crate) fn letters(column: u32) -> String {
    let (mut rest, mut out) = (column, String::new());
    while rest > 0 {
        rest -= 1;
        out.insert(0, char::from(b'A' + (rest % 26) as u8));
        rest /= 26;
    }
    out
}

/// How much a finding weighs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Level {
    /// Something contradicts something else, or is missing.
    Warning,
    /// How something was understood.
    Note,
}

/// Something doubtful in a source.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Finding {
    /// What kind of finding it is.
    pub code: &'static str,
    /// How much it weighs.
    pub level: Level,
    /// Where.
    pub seen: Seen,
    /// Where else.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub others: Vec<Seen>,
    /// What, in a sentence.
    pub says: String,
}

impl Finding {
    /// One at one place.
    pub fn new(code: &'static str, level: Level, seen: Seen, says: String) -> Self {
        Self { code, level, seen, others: Vec::new(), says }
    }
}

/// A source that cannot be read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Broken {
    /// Where.
    pub seen: Seen,
    /// Why, and what would help.
    pub why: String,
}

impl fmt::Display for Broken {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.seen.line {
            0 => write!(out, "{}: {}", self.seen.file, self.why),
            _ => write!(out, "{}: {}", self.seen, self.why),
        }
    }
}

impl std::error::Error for Broken {}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_are_said_as_people_find_them() {
        assert_eq!([1, 26, 27, 52, 53, 703].map(letters), ["A", "Z", "AA", "AZ", "BA", "AAA"]);
        let mut seen = Seen { file: "cables.csv".into(), sheet: None, line: 7, column: Some(2) };
        assert_eq!(seen.to_string(), "cables.csv:7:2");
        seen.sheet = Some("Pier".into());
        assert_eq!(seen.to_string(), "cables.csv, sheet Pier, row 7, column B");
    }
}
