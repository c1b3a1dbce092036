//! The colours of each part of a view, on either ground, in as many colours as there are.

use std::io::{self, Write};

use anstyle::{Ansi256Color, AnsiColor, Color, Effects, RgbColor, Style};
use tideline_core::internal::model::Weight;

use super::theme::{Colours, Theme};
use crate::shown::{DisplayLine, Piece, Role};
use crate::syntax::Class;

/// What a piece of text is; the palette decides how it looks.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum TextRole {
    /// Equal text.
    Text,
    /// Line numbers, rules, notes.
    Faint,
    /// Names and numbers in headings.
    Strong,
    /// The mark or label of what is gone.
    Gone,
    /// A line that is gone.
    GoneLine,
    /// Words that are gone.
    GoneWord,
    /// The mark or label of what is new.
    New,
    /// A line that is new.
    NewLine,
    /// Words that are new.
    NewWord,
    /// The mark of what moved.
    Moved,
    /// A line that moved.
    MovedLine,
    /// What changed inside a line that moved.
    MovedWord,
    /// A line that does not count.
    MutedLine,
    /// Words that differ and do not count.
    MutedWord,
    /// What needs attention.
    Trouble,
}

impl TextRole {
    /// That of a piece of a line.
    fn of_piece(piece: &Piece) -> Self {
        match (piece.role, piece.differs, piece.sign) {
            (_, Some(Weight::Muted), _) => Self::MutedWord,
            (Role::Gone, Some(_), _) => Self::GoneWord,
            (Role::Moved, Some(_), _) => Self::MovedWord,
            (Role::New, Some(_), _) => Self::NewWord,
            (_, None, true) => Self::Faint,
            (role, ..) => Self::of_line(role),
        }
    }

    /// That of a line.
    pub(super) fn of_line(role: Role) -> Self {
        match role {
            Role::Equal => Self::Text,
            Role::Gone => Self::GoneLine,
            Role::New => Self::NewLine,
            Role::Moved => Self::MovedLine,
            Role::Muted => Self::MutedLine,
        }
    }
}

/// Turns text roles into styles.
#[derive(Clone, Copy, Debug)]
pub(super) struct Palette {
    colours: Colours,
    theme: Theme,
}

impl Palette {
    pub(super) fn new(colours: Colours, theme: Theme) -> Self {
        Self { colours, theme }
    }

    /// Whether anything is coloured at all.
    pub(super) fn coloured(self) -> bool {
        self.colours != Colours::None
    }

    /// Writes text in a text role.
    pub(super) fn write(self, role: TextRole, text: &str, out: &mut dyn Write) -> io::Result<()> {
        self.write_tinted(role, None, text, out)
    }

    /// Writes bytes that are text already in a text role.
    pub(super) fn write_bytes(self, role: TextRole, text: &[u8], out: &mut dyn Write) -> io::Result<()> {
        if !self.coloured() {
            return out.write_all(text);
        }
        let style = self.style(role);
        write!(out, "{style}")?;
        out.write_all(text)?;
        write!(out, "{style:#}")
    }

    /// Writes text in a text role, its letters in the colour of its syntax where the role leaves room for that.
    pub(super) fn write_tinted(
        self,
        role: TextRole,
        tint: Option<Class>,
        text: &str,
        out: &mut dyn Write,
    ) -> io::Result<()> {
        if !self.coloured() {
            return out.write_all(text.as_bytes());
        }
        let style = self.tinted(role, tint);
        if text.is_empty() || style.is_plain() {
            return out.write_all(text.as_bytes());
        }
        write!(out, "{style}{text}{style:#}")
    }

    /// The style of a text role, with the colour of its syntax where the role leaves room for that.
    fn tinted(self, role: TextRole, tint: Option<Class>) -> Style {
        let style = self.style(role);
        match (tint, role) {
            (Some(class), TextRole::Text | TextRole::GoneLine | TextRole::NewLine | TextRole::MovedLine)
                if self.coloured() =>
            {
                style.fg_color(self.tint(class))
            }
            _ => style,
        }
    }

    /// Writes the pieces of a line, each in its text role.
    pub(super) fn write_shown(self, shown: &DisplayLine, out: &mut dyn Write) -> io::Result<()> {
        for piece in &shown.pieces {
            self.write_tinted(TextRole::of_piece(piece), piece.tint, &piece.text, out)?;
        }
        Ok(())
    }

    /// The style of a piece of a line.
    pub(super) fn style_of(self, piece: &Piece) -> Style {
        let style = self.tinted(TextRole::of_piece(piece), piece.tint);
        if piece.is_found { style.effects(style.get_effects() | Effects::UNDERLINE | Effects::INVERT) } else { style }
    }

    /// The style of a text role.
    pub(super) fn style(self, role: TextRole) -> Style {
        match self.colours {
            Colours::None => Style::new(),
            Colours::Sixteen => sixteen(role, self.theme),
            Colours::Many => lossy(self.full(role), |rgb| Color::Ansi256(nearest_256(rgb))),
            Colours::All => self.full(role),
        }
    }

    fn full(self, role: TextRole) -> Style {
        let fg = |rgb: u32| Style::new().fg_color(Some(Color::Rgb(colour(rgb))));
        let both = |text: u32, ground: u32| fg(text).bg_color(Some(Color::Rgb(colour(ground))));
        match (self.theme, role) {
            (_, TextRole::Text) => Style::new(),
            (_, TextRole::Strong) => Style::new().effects(Effects::BOLD),
            (Theme::Dark, TextRole::Faint) => fg(0x7d_8a_97),
            (Theme::Light, TextRole::Faint) => fg(0x61_69_72),
            (Theme::Dark, TextRole::Gone) => fg(0xff_b4_54),
            (Theme::Dark, TextRole::GoneLine) => both(0xf3_cf_98, 0x2b_20_0f),
            (Theme::Dark, TextRole::GoneWord) => both(0xff_f1_d6, 0x7a_4d_05),
            (Theme::Light, TextRole::Gone) => fg(0x8a_4b_00),
            (Theme::Light, TextRole::GoneLine) => both(0x6b_3c_00, 0xff_f1_da),
            (Theme::Light, TextRole::GoneWord) => both(0x42_22_00, 0xff_cf_7d),
            (Theme::Dark, TextRole::New) => fg(0x45_d9_c0),
            (Theme::Dark, TextRole::NewLine) => both(0x9a_e6_d8, 0x0c_29_27),
            (Theme::Dark, TextRole::NewWord) => both(0xda_ff_f7, 0x0b_62_57),
            (Theme::Light, TextRole::New) => fg(0x00_6b_5f),
            (Theme::Light, TextRole::NewLine) => both(0x00_50_47, 0xdc_f5_f0),
            (Theme::Light, TextRole::NewWord) => both(0x00_33_2d, 0x8d_e0_d2),
            (Theme::Dark, TextRole::Moved) => fg(0xc6_a0_ff),
            (Theme::Dark, TextRole::MovedLine) => both(0xd9_c4_ff, 0x22_1a_33),
            (Theme::Dark, TextRole::MovedWord) => both(0xf3_ea_ff, 0x5a_3a_96),
            (Theme::Light, TextRole::MovedWord) => both(0x2d_0f_5e, 0xd3_b8_ff),
            (Theme::Light, TextRole::Moved) => fg(0x6a_35_b8),
            (Theme::Dark, TextRole::MutedLine) => fg(0x88_93_9f),
            (Theme::Dark, TextRole::MutedWord) => both(0xa3_ad_b8, 0x1f_26_2e),
            (Theme::Light, TextRole::MutedLine) => fg(0x66_70_7a),
            (Theme::Light, TextRole::MutedWord) => both(0x57_61_6b, 0xed_f0_f3),
            (Theme::Dark, TextRole::Trouble) => fg(0xff_7b_7b),
            (Theme::Light, TextRole::Trouble) => fg(0xb4_1d_1d),
            (Theme::Light, TextRole::MovedLine) => both(0x4d_22_8f, 0xf1_e8_ff),
        }
    }

    fn tint(self, class: Class) -> Option<Color> {
        let rgb = colour(match (self.theme, class) {
            (Theme::Dark, Class::Comment) => 0x8f_9b_a8,
            (Theme::Dark, Class::Text) => 0xa5_c9_ff,
            (Theme::Dark, Class::Constant) => 0xe6_b3_e6,
            (Theme::Dark, Class::Keyword) => 0xff_9d_b4,
            (Theme::Dark, Class::Name) => 0xe9_ee_f4,
            (Theme::Light, Class::Comment) => 0x5d_67_71,
            (Theme::Light, Class::Text) => 0x0a_45_96,
            (Theme::Light, Class::Constant) => 0x86_1d_86,
            (Theme::Light, Class::Keyword) => 0x9c_15_4c,
            (Theme::Light, Class::Name) => 0x1d_24_2c,
        });
        match self.colours {
            Colours::All => Some(Color::Rgb(rgb)),
            Colours::Many => Some(Color::Ansi256(nearest_256(rgb))),
            Colours::Sixteen | Colours::None => None,
        }
    }
}

fn colour(rgb: u32) -> RgbColor {
    let [_, red, green, blue] = rgb.to_be_bytes();
    RgbColor(red, green, blue)
}

/// The terminal's own colours: their exact shade is the person's choice, so changed words are told by reversal.
fn sixteen(role: TextRole, theme: Theme) -> Style {
    let fg = |colour: AnsiColor| Style::new().fg_color(Some(Color::Ansi(colour)));
    // Yellow and cyan cannot be read on a light ground, nor blue on a dark one.
    let (gone, new) = match theme {
        Theme::Dark => (AnsiColor::Yellow, AnsiColor::Cyan),
        Theme::Light => (AnsiColor::Red, AnsiColor::Blue),
    };
    match role {
        TextRole::Text => Style::new(),
        TextRole::Strong => Style::new().effects(Effects::BOLD),
        TextRole::Faint | TextRole::MutedLine => fg(AnsiColor::BrightBlack),
        TextRole::MutedWord => fg(AnsiColor::BrightBlack).effects(Effects::UNDERLINE),
        TextRole::Gone | TextRole::GoneLine => fg(gone),
        TextRole::GoneWord => fg(gone).effects(Effects::INVERT),
        TextRole::New | TextRole::NewLine => fg(new),
        TextRole::NewWord => fg(new).effects(Effects::INVERT),
        TextRole::Moved | TextRole::MovedLine => fg(AnsiColor::Magenta),
        TextRole::MovedWord => fg(AnsiColor::Magenta).effects(Effects::INVERT),
        TextRole::Trouble => fg(AnsiColor::Red).effects(Effects::BOLD),
    }
}

fn lossy(style: Style, nearest: impl Fn(RgbColor) -> Color) -> Style {
    let map = |colour: Option<Color>| match colour {
        Some(Color::Rgb(rgb)) => Some(nearest(rgb)),
        other => other,
    };
    style.fg_color(map(style.get_fg_color())).bg_color(map(style.get_bg_color()))
}

fn nearest_256(rgb: RgbColor) -> Ansi256Color {
    anstyle_lossy::rgb_to_xterm(rgb)
}
