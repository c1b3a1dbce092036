//! `[view]`: how things look when no option says so.

use anyhow::Result;
use tideline_views::Context;

use super::table::{Table, choice};
use crate::args::{ColorChoice, LayoutChoice, SyntaxChoice, ThemeChoice, parse_context};

/// What `[view]` says.
#[derive(Clone, Debug, Default)]
pub(crate) struct ViewDefaults {
    pub(crate) layout: Option<LayoutChoice>,
    pub(crate) context: Option<Context>,
    pub(crate) grain: Option<String>,
    pub(crate) color: Option<ColorChoice>,
    pub(crate) theme: Option<ThemeChoice>,
    pub(crate) syntax: Option<SyntaxChoice>,
    pub(crate) plain: Option<bool>,
    pub(crate) legend: Option<bool>,
    pub(crate) pager: Option<bool>,
    pub(crate) width: Option<u16>,
}

impl ViewDefaults {
    pub(super) fn read(table: &Table<'_>) -> Result<Self> {
        table.only(["layout", "context", "grain", "color", "theme", "syntax", "plain", "legend", "pager", "width"])?;
        let context = table
            .number_or_text("context")?
            .map(|text| parse_context(&text).map_err(|error| table.source.error(&table.place_of("context"), error)));
        let width = table.number_or_text("width")?.map(|text| {
            let width = text.parse().ok().filter(|width| *width >= 40);
            width.ok_or_else(|| {
                table.source.error(&table.place_of("width"), "`width` is a number of columns from 40 on")
            })
        });
        Ok(Self {
            layout: choice(table, "layout")?,
            context: context.transpose()?,
            grain: table.text("grain")?,
            color: choice(table, "color")?,
            theme: choice(table, "theme")?,
            syntax: choice(table, "syntax")?,
            plain: table.flag("plain")?,
            legend: table.flag("legend")?,
            pager: table.flag("pager")?,
            width: width.transpose()?,
        })
    }

    /// Adds what another configuration says and this one does not.
    pub(super) fn add(&mut self, other: Self) {
        self.layout = self.layout.or(other.layout);
        self.context = self.context.or(other.context);
        self.grain = self.grain.take().or(other.grain);
        self.color = self.color.or(other.color);
        self.theme = self.theme.or(other.theme);
        self.syntax = self.syntax.or(other.syntax);
        self.plain = self.plain.or(other.plain);
        self.legend = self.legend.or(other.legend);
        self.pager = self.pager.or(other.pager);
        self.width = self.width.or(other.width);
    }
}
