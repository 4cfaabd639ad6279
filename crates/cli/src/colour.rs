//! Whether what the program says is coloured.

/// When there are colours.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, clap::ValueEnum)]
pub(crate) enum When {
    /// On a terminal, unless NO_COLOR is set; elsewhere with CLICOLOR_FORCE
    #[default]
    Auto,
    /// Always
    Always,
    /// Never
    Never,
}

impl When {
    /// Whether there are colours where something is written to: a terminal or not. The option counts more than the environment, and
    /// there `NO_COLOR` more than `CLICOLOR_FORCE`.
    pub(crate) fn on(self, is_terminal: bool) -> bool {
        let variable = |name| std::env::var_os(name).filter(|value| !value.is_empty());
        let is_forced = || variable("CLICOLOR_FORCE").is_some_and(|value| value != "0");
        match self {
            When::Always => true,
            When::Never => false,
            When::Auto => variable("NO_COLOR").is_none() && (is_terminal || is_forced()),
        }
    }
}
