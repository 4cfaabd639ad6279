//! The theme of a run: one, or two for light and for dark pages.

use super::theme::Theme;

/// One theme, or one for light pages and one for dark ones.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Themes {
    /// The only one, or that of light pages; also for forms that know one only.
    pub main: Theme,
    /// That of dark pages.
    pub dark: Option<Theme>,
}

impl Themes {
    /// A theme for light pages, and one for dark ones.
    ///
    /// # Errors
    /// If they draw lines or letters in different ways: why they are no pair.
    pub fn pair(main: Theme, dark: Theme) -> Result<Self, String> {
        match main.draws_as(&dark) {
            true => Ok(Self { main, dark: Some(dark) }),
            false => Err(format!(
                "`{}` and `{}` draw lines or letters in different manners, and one picture has one",
                main.name, dark.name
            )),
        }
    }

    /// What a digest says of them: nothing of the default theme, so that pictures that ask for no theme stay what they are.
    pub fn fingerprint(&self) -> String {
        if *self == Self::default() { String::new() } else { format!("{self:?}") }
    }
}

impl From<Theme> for Themes {
    fn from(main: Theme) -> Self {
        Self { main, dark: None }
    }
}
