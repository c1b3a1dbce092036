//! The schemas of enums of the core, which knows nothing of schemas.

use schemars::JsonSchema;

/// Names the schema of an enum of the core.
macro_rules! names {
    ($name:ident, $doc:literal, $($variant:ident),+) => {
        #[doc = $doc]
        #[derive(JsonSchema)]
        #[schemars(rename_all = "lowercase")]
        #[expect(dead_code, reason = "only its schema is used")]
        pub(super) enum $name { $($variant),+ }
    };
}

names!(StatusName, "What became of a pair.", Same, Muted, Changed, Gone, New, Moved, Retyped, Unreadable);
names!(FormName, "What happened to a stretch of lines.", Gone, New, Edited, Moved);
names!(WeightName, "Whether a change counts.", Counted, Muted);
