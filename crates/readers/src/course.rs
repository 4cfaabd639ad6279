//! What happens in a sequence and what is done in a flow, as it was found. Things and links are given by their numbers, from 0.

use schemars::JsonSchema;
use serde::Serialize;

/// One thing that happens in a sequence.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Happening {
    /// A message.
    Message(Message),
    /// The same several times.
    Repeat {
        /// How often.
        label: String,
        /// What is repeated.
        body: Vec<Happening>,
    },
    /// Several at the same time.
    Together(Vec<Vec<Happening>>),
}

/// A message of a sequence.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Message {
    /// The link that says who sends what to whom.
    pub link: usize,
    /// The reply.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub returning: Option<String>,
    /// How long it took.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub within: Option<String>,
    /// What happens while the receiver works on it.
    pub body: Vec<Happening>,
}

/// One thing that is done in a flow.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Passage {
    /// A step of any kind but a decision.
    Step(usize),
    /// What is done in a lane.
    In {
        /// The lane.
        lane: usize,
        /// What is done there.
        body: Vec<Passage>,
    },
    /// A decision.
    Decide {
        /// What is decided.
        thing: usize,
        /// Its branches, in order.
        branches: Vec<Branch>,
    },
    /// Several at the same time.
    Together(Vec<Vec<Passage>>),
    /// What is repeated.
    Repeat {
        /// How often, or until when.
        thing: usize,
        /// What is repeated.
        body: Vec<Passage>,
    },
    /// The flow goes on elsewhere.
    Go(usize),
}

/// One branch of a decision.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Branch {
    /// When it is taken; nothing for whatever else may be the case.
    pub label: Option<String>,
    /// What is done then.
    pub body: Vec<Passage>,
}
