//! What differences are put down to that do not count.

/// The cause of a difference that only the file makes: its pixels are the same.
pub const ENCODING: &str = "encoding of pixels";
/// The cause of a difference in what is known of an image besides its pixels.
pub const METADATA: &str = "metadata";
/// The cause of a difference in the colour of pixels that nobody can see.
pub const UNSEEN: &str = "colour of transparent pixels";
/// The cause of a small difference in an image that was scaled.
pub const SCALING: &str = "scaling";
