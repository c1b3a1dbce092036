//! Two images, ready to be drawn.

use tideline_core::internal::kinds::image::{ImagePair, Picture};
use tideline_core::internal::model::image::{Area, ImageAttribute, ImageChangeKind, RegionChange, Relation, Turn};
use tideline_core::internal::model::{Extent, Form};
use tideline_core::internal::rules::Account;

use super::item::{Item, Whole};
use super::view::{Around, ItemView};
use crate::view::Title;
use crate::wording::{grouped, plural};

/// Letters of a value of an attribute that are told.
const LONGEST_VALUE: usize = 60;
/// Attributes that are told in a line each.
const MOST_ATTRIBUTES: usize = 12;

/// Two images and what differs between them, ready to be drawn.
#[derive(Clone, Copy, Debug)]
pub struct ImageView<'a> {
    /// What stands above.
    pub title: Title<'a>,
    /// The images, and what differs.
    pub pair: &'a ImagePair<'a>,
}

/// An area in words: its size, and where it is.
fn area_in_words(area: &Area) -> String {
    format!("{} × {} pixels at {}, {}", grouped(area.width), grouped(area.height), grouped(area.x), grouped(area.y))
}

/// How one image comes of the other, in words.
pub(crate) fn relation_in_words(relation: Relation) -> String {
    let along = |by: i64, one: &str, other: &str| {
        let pixels = plural(usize::try_from(by.unsigned_abs()).unwrap_or(usize::MAX), "pixel");
        (by != 0).then(|| format!("{pixels} {}", if by > 0 { one } else { other }))
    };
    match relation {
        Relation::Shifted(x, y) => {
            let parts: Vec<String> =
                along(x, "to the right", "to the left").into_iter().chain(along(y, "down", "up")).collect();
            format!("shifted by {}", parts.join(" and "))
        }
        Relation::Cropped(area) => format!("cropped to {}", area_in_words(&area)),
        Relation::Extended(area) => format!("extended: what was there is now at {}, {}", area.x, area.y),
        Relation::Scaled => "scaled".to_owned(),
        Relation::Turned(turn) => match turn {
            Turn::Right => "turned a quarter to the right",
            Turn::Left => "turned a quarter to the left",
            Turn::Half => "turned upside down",
            Turn::Mirrored => "mirrored: left and right are exchanged",
            Turn::Flipped => "mirrored: up and down are exchanged",
            Turn::Transposed => "mirrored along the diagonal",
            Turn::Transverse => "mirrored along the other diagonal",
        }
        .to_owned(),
    }
}

impl ImageView<'_> {
    /// The frames of the one that has more.
    fn frames(&self) -> usize {
        self.pair.before.frames.len().max(self.pair.after.frames.len())
    }

    /// What a change is, in words.
    pub(crate) fn what(&self, change: &RegionChange) -> String {
        let frames = self.frames();
        let lead = if frames > 1 { format!("frame {}: ", change.frame + 1) } else { String::new() };
        let words = match change.kind {
            ImageChangeKind::Whole(relation @ Relation::Scaled) => {
                let (before, after) = (&self.pair.before, &self.pair.after);
                let share = |before: usize, after: usize| format!("{:.0} %", after as f64 * 100.0 / before as f64);
                let (across, down) = (share(before.width(), after.width()), share(before.height(), after.height()));
                let by = if across == down { across } else { format!("{across} across and {down} down") };
                format!("{} to {by}", relation_in_words(relation))
            }
            ImageChangeKind::Whole(relation) => relation_in_words(relation),
            ImageChangeKind::Frame => "the whole frame".to_owned(),
            ImageChangeKind::Pixels => match (&change.before, &change.after) {
                (Some(before), Some(after)) if before != after => {
                    format!("{}, now at {}, {}", area_in_words(before), grouped(after.x), grouped(after.y))
                }
                (_, Some(area)) | (Some(area), None) => area_in_words(area),
                (None, None) => String::new(),
            },
        };
        format!("{lead}{words}")
    }

    /// How much a change changes, in words.
    pub(crate) fn how_much(change: &RegionChange) -> String {
        match (change.kind, change.form) {
            (ImageChangeKind::Whole(_), _) => "compared after it".to_owned(),
            (_, Form::Edited) => {
                let differ = if change.pixels == 1 { "differs" } else { "differ" };
                format!(
                    "{} {differ}, by {:.1} on average, {:.1} at most",
                    plural(change.pixels, "pixel"),
                    change.mean,
                    change.largest
                )
            }
            (_, form) => form.name().to_owned(),
        }
    }

    fn described(picture: &Picture) -> String {
        let frames = picture.frames.len();
        let frames = if frames > 1 { format!(", {}", plural(frames, "frame")) } else { String::new() };
        let (width, height) = (grouped(picture.width()), grouped(picture.height()));
        format!("{width} × {height} pixels{frames}, {}, {}", picture.format, picture.colour)
    }

    fn attribute(attribute: &ImageAttribute) -> String {
        let told = |value: &Option<String>| match value {
            None => "none".to_owned(),
            Some(value) if value.chars().count() > LONGEST_VALUE => {
                format!("{}…", value.chars().take(LONGEST_VALUE).collect::<String>())
            }
            Some(value) => value.clone(),
        };
        format!("{}: {}, now {}", attribute.name, told(&attribute.before), told(&attribute.after))
    }
}

impl ItemView for ImageView<'_> {
    fn title(&self) -> &Title<'_> {
        &self.title
    }

    fn extent(&self) -> Extent {
        self.pair.found.extent()
    }

    fn account(&self) -> (&Account, bool) {
        (&self.pair.found.account, false)
    }

    fn len(&self) -> usize {
        self.pair.found.changes.len()
    }

    fn facts(&self) -> Vec<String> {
        let (before, after) = (Self::described(&self.pair.before), Self::described(&self.pair.after));
        let mut facts = vec![if before == after { before } else { format!("{before}; now {after}") }];
        let found = &self.pair.found;
        let differing: usize =
            found.changes.iter().filter(|change| change.largest > 0.0).map(|change| change.pixels).sum();
        if differing > 0 {
            let share = differing as f64 * 100.0 / found.compared.max(1) as f64;
            let share = if share < 0.1 { "less than 0.1 %".to_owned() } else { format!("{share:.1} %") };
            let verb = if differing == 1 { "differs" } else { "differ" };
            facts.push(format!(
                "{} of {} {verb} ({share}); colours are up to 100 apart, as OKLab measures them",
                grouped(differing),
                plural(found.compared, "pixel")
            ));
        }
        let written = |attribute: &&ImageAttribute| !matches!(attribute.name.as_str(), "format" | "colours");
        let told: Vec<&ImageAttribute> = found.attributes.iter().filter(written).collect();
        facts.extend(told.iter().take(MOST_ATTRIBUTES).map(|attribute| Self::attribute(attribute)));
        if told.len() > MOST_ATTRIBUTES {
            facts.push(format!("{} that differ", plural(told.len() - MOST_ATTRIBUTES, "more attribute")));
        }
        facts
    }

    fn troubles(&self) -> Vec<String> {
        Vec::new()
    }

    fn item(&self, index: usize) -> Item {
        let change = &self.pair.found.changes[index];
        let area = change.after.or(change.before).unwrap_or_default();
        let frames = self.frames();
        let height = self.pair.after.height().max(1);
        let down = area.y as f64 / height as f64;
        Item {
            number: change.number,
            form: change.form,
            weight: change.weight,
            cause: None,
            title: self.what(change),
            group: None,
            place: Self::how_much(change),
            share: (change.frame as f64 + down) / frames as f64,
            edits: Vec::new(),
            whole: Whole::None,
        }
    }

    fn around(&self, _: usize, _: usize) -> Around {
        Default::default()
    }
}
