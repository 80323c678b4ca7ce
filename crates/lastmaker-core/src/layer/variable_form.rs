//! How a syntax writes the value of an environment variable.

/// How a syntax writes the value of an environment variable: what is before its name, and behind it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct VariableForm {
    lead: &'static str,
    close: &'static str,
}

impl VariableForm {
    /// `%NAME%`, of Windows and its command interpreter.
    pub const PERCENT: Self = Self::between("%", "%");
    /// `$NAME`, of POSIX shells.
    pub const DOLLAR: Self = Self::between("$", "");
    /// `$env:NAME`, of PowerShell.
    pub const ENV: Self = Self::between("$env:", "");

    /// Every form that a sheet may name.
    const ALL: [Self; 5] = [
        Self::PERCENT,
        Self::ENV,
        Self::DOLLAR,
        Self::between("${", "}"),
        Self::between("$(", ")"),
    ];

    const fn between(lead: &'static str, close: &'static str) -> Self {
        Self { lead, close }
    }

    /// The form in which a variable called `NAME` is written so.
    pub fn of_sample(sample: &str) -> Option<Self> {
        Self::ALL
            .into_iter()
            .find(|form| form.written("NAME") == sample)
    }

    /// How it writes the value of the variable `name`.
    pub fn written(self, name: &str) -> String {
        format!("{}{name}{}", self.lead, self.close)
    }
}

/// That a program puts a variable's value in at some place of a text.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Expansion {
    /// How the variable is written there.
    pub form: VariableForm,
    /// Whether blanks in the value part nothing.
    pub keeps_blanks: bool,
}

impl Expansion {
    /// One whose value stays in one piece, whatever is in it.
    pub fn whole(form: VariableForm) -> Self {
        Self {
            form,
            keeps_blanks: true,
        }
    }
}
