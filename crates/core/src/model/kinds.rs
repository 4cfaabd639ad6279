//! The closed lists of the language: kinds of diagrams, elements, verbs, operators.

use crate::vocabulary::words;

words! {
    /// Kinds of diagrams.
    DiagramKind {
        Sequence "sequence" "Messages between parties, in order.",
        Classes "classes" "Classifiers and their relations.",
        Flow "flow" "A procedure.",
        States "states" "A state machine.",
        Architecture "architecture" "Systems inside systems.",
        Network "network" "A general graph.",
        Tree "tree" "A tree.",
    }
}

words! {
    /// Which members a sheet of classes shows.
    ShownMembers {
        None "none" "None.",
        Keys "keys" "What identifies, and what refers to others.",
        Public "public" "All but those marked private, protected or of the package.",
        All "all" "All.",
    }
}

words! {
    /// The words of a sheet that choose elements.
    ChoiceWord {
        Open "open" "Their inside is shown.",
        Close "close" "Their inside is not shown.",
        Focus "focus" "They are shown, and what they touch.",
        Show "show" "They are shown in any case.",
        Hide "hide" "They are not shown.",
    }
}

words! {
    /// Kinds of elements.
    ElementKind {
        Party "party" "Somebody or something that takes part.",
        Actor "actor" "A person or a role.",
        System "system" "A system.",
        Service "service" "A running service.",
        Store "store" "Where data is kept; in flows, stored data.",
        Queue "queue" "A queue of messages.",
        Device "device" "A piece of hardware.",
        Part "part" "A part of something.",
        Group "group" "A box only.",
        Lane "lane" "A lane of a flow.",
        Class "class" "A class.",
        Interface "interface" "An interface.",
        Enum "enum" "An enumeration.",
        Record "record" "A data type.",
        Table "table" "A table of a database.",
        Object "object" "An instance.",
        Step "step" "A process.",
        Begin "begin" "The terminal at the beginning.",
        Finish "finish" "The terminal at the end.",
        Decide "decide" "A decision.",
        Data "data" "Data.",
        Document "document" "A document.",
        Manual "manual" "A manual operation.",
        Enter "enter" "Manual input.",
        Prepare "prepare" "A preparation.",
        Call "call" "A predefined process.",
        Display "display" "A display.",
        Connector "connector" "A connector.",
        Wait "wait" "A delay.",
        Memory "memory" "Internal storage.",
        Disk "disk" "Storage with direct access.",
        Tape "tape" "Storage with sequential access.",
        Card "card" "A punched card.",
        Strip "strip" "Punched tape.",
        Ellipsis "ellipsis" "Something that is left out.",
        Repeat "repeat" "Where a repetition begins.",
        Until "until" "Where a repetition ends.",
        Bar "bar" "Where parallel work begins or ends.",
        State "state" "A state.",
        Region "region" "A region of a state, at the same time as its neighbours.",
        Choice "choice" "A choice between transitions.",
        Junction "junction" "Where transitions meet.",
        History "history" "The state that was left last.",
        Entry "entry" "A point to enter a state by.",
        Exit "exit" "A point to leave a state by.",
        Zone "zone" "A zone of hosts.",
        Host "host" "A machine that runs services.",
        Item "item" "An item of a tree.",
        Chance "chance" "What is left to chance.",
        Outcome "outcome" "A result.",
        Remark "remark" "A remark.",
        Lost "lost" "Where a lost message ends.",
        Found "found" "Where a found message begins.",
    }
}

impl ElementKind {
    /// Whether it is a box only: no step of a path and no level of depth.
    pub fn is_box(self) -> bool {
        matches!(self, ElementKind::Group | ElementKind::Lane | ElementKind::Region)
    }

    /// Whether it stands for nothing in the world described, but for a point or a mark of the notation.
    pub fn is_mark(self) -> bool {
        use ElementKind::{Bar, Choice, Entry, Exit, Found, History, Junction, Lost, Remark};
        matches!(self, Bar | Choice | Entry | Exit | Found | History | Junction | Lost | Remark)
    }
}

words! {
    /// What relations and messages say.
    Verb {
        Calls "calls" "A synchronous call.",
        Sends "sends" "An asynchronous message.",
        Answers "answers" "A reply.",
        Creates "creates" "A creation.",
        Destroys "destroys" "A destruction.",
        Does "does" "An own action.",
        Extends "extends" "Generalisation.",
        Implements "implements" "Realisation.",
        Owns "owns" "Composition.",
        Shares "shares" "Shared aggregation.",
        Knows "knows" "A navigable association.",
        Joins "joins" "An association without direction.",
        Uses "uses" "A dependency, or a use.",
        Reads "reads" "Reading.",
        Writes "writes" "Writing.",
        NeverUses "never uses" "A forbidden use; not drawn.",
        Then "then" "What comes next.",
        Onward "onward" "The way on where a branch is missing.",
        Becomes "becomes" "A transition.",
        Holds "holds" "What hangs below in a tree.",
        Runs "runs" "A host runs a service.",
        Aside "aside" "What stands beside a step.",
        Remarks "remarks" "What a remark is about.",
    }
}

words! {
    /// Operators of combined fragments, by the name that UML writes in their corner.
    Operator {
        Opt "opt" "One operand that may happen.",
        Alt "alt" "One of several operands.",
        Loop "loop" "A repetition.",
        Par "par" "At the same time.",
        Break "break" "Leaves what is around it.",
        Critical "critical" "Undivided.",
        Strict "strict" "In order.",
        Neg "neg" "Must not happen.",
    }
}

words! {
    /// How the elements of a diagram are arranged.
    Arrangement {
        Layered "layered" "In layers, along the lines.",
        Tree "tree" "As a tree.",
        Radial "radial" "In rings around a middle.",
        Force "force" "By springs.",
        Grid "grid" "In rows.",
    }
}

words! {
    /// How lines run.
    Routing {
        Stepped "stepped" "Horizontal and vertical stretches.",
        Curved "curved" "Curves.",
        Straight "straight" "Straight from end to end.",
    }
}

words! {
    /// Where one element stands, seen from another.
    Placing {
        LeftOf "left" "To its left.",
        RightOf "right" "To its right.",
        Above "above" "Above it.",
        Below "below" "Below it.",
    }
}

words! {
    /// Which way a diagram reads.
    Heading {
        Down "down" "From top to bottom.",
        Up "up" "From bottom to top.",
        Right "right" "From left to right.",
        Left "left" "From right to left.",
    }
}
