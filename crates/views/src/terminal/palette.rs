//! The colours of each part of a view, on either ground, in as many colours as there are.

use std::io::{self, Write};

use anstyle::{Ansi256Color, AnsiColor, Color, Effects, RgbColor, Style};

use super::look::{Colours, Theme};

/// What a piece of text is; the palette decides how it looks.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Ink {
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
}

/// Turns inks into styles.
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

    /// Writes text in an ink.
    pub(super) fn write(self, ink: Ink, text: &str, out: &mut impl Write) -> io::Result<()> {
        let style = self.style(ink);
        if text.is_empty() || style.is_plain() {
            return out.write_all(text.as_bytes());
        }
        write!(out, "{style}{text}{style:#}")
    }

    /// The style of an ink.
    pub(super) fn style(self, ink: Ink) -> Style {
        match self.colours {
            Colours::None => Style::new(),
            Colours::Sixteen => sixteen(ink),
            Colours::Many => lossy(self.full(ink), |rgb| Color::Ansi256(nearest_256(rgb))),
            Colours::All => self.full(ink),
        }
    }

    fn full(self, ink: Ink) -> Style {
        let fg = |rgb: u32| Style::new().fg_color(Some(Color::Rgb(colour(rgb))));
        let both = |text: u32, ground: u32| fg(text).bg_color(Some(Color::Rgb(colour(ground))));
        match (self.theme, ink) {
            (_, Ink::Text) => Style::new(),
            (_, Ink::Strong) => Style::new().effects(Effects::BOLD),
            (Theme::Dark, Ink::Faint) => fg(0x76_83_90),
            (Theme::Light, Ink::Faint) => fg(0x65_6d_76),
            (Theme::Dark, Ink::Gone) => fg(0xff_b4_54),
            (Theme::Dark, Ink::GoneLine) => fg(0xf3_cf_98),
            (Theme::Dark, Ink::GoneWord) => both(0xff_f1_d6, 0x7a_4d_05),
            (Theme::Light, Ink::Gone) => fg(0x8a_4b_00),
            (Theme::Light, Ink::GoneLine) => fg(0x7a_45_00),
            (Theme::Light, Ink::GoneWord) => both(0x4a_26_00, 0xff_d2_85),
            (Theme::Dark, Ink::New) => fg(0x45_d9_c0),
            (Theme::Dark, Ink::NewLine) => fg(0x9a_e6_d8),
            (Theme::Dark, Ink::NewWord) => both(0xda_ff_f7, 0x0b_62_57),
            (Theme::Light, Ink::New) => fg(0x00_6b_5f),
            (Theme::Light, Ink::NewLine) => fg(0x00_5c_52),
            (Theme::Light, Ink::NewWord) => both(0x00_37_31, 0x93_e4_d6),
        }
    }
}

fn colour(rgb: u32) -> RgbColor {
    let [_, red, green, blue] = rgb.to_be_bytes();
    RgbColor(red, green, blue)
}

/// The terminal's own colours: their exact shade is the person's choice, so changed words are told by reversal.
fn sixteen(ink: Ink) -> Style {
    let fg = |colour: AnsiColor| Style::new().fg_color(Some(Color::Ansi(colour)));
    match ink {
        Ink::Text => Style::new(),
        Ink::Strong => Style::new().effects(Effects::BOLD),
        Ink::Faint => fg(AnsiColor::BrightBlack),
        Ink::Gone | Ink::GoneLine => fg(AnsiColor::Yellow),
        Ink::GoneWord => fg(AnsiColor::Yellow).effects(Effects::INVERT),
        Ink::New | Ink::NewLine => fg(AnsiColor::Cyan),
        Ink::NewWord => fg(AnsiColor::Cyan).effects(Effects::INVERT),
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
