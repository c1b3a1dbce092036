//! What the templates call.

/// A number with its thousands set apart.
#[askama::filter_fn]
pub(super) fn grouped(number: &usize, _: &dyn askama::Values) -> askama::Result<String> {
    Ok(crate::wording::grouped(*number))
}
