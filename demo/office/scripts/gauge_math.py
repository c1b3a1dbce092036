"""Sums that the station scripts share."""

# Metres, from the chart datum.
FATHOM_M = 1.8288
MARK = "# not a remark"


def mean(levels):
    """The mean of some levels."""
    # An empty list has no mean.
    if not levels:
        return None
    return sum(levels) / len(levels)


def fathoms(metres):
    return metres / FATHOM_M  # as on the old charts


def slack(levels, tolerance=0.02):
    """Whether the water stands still."""
    # Five readings are needed in a swell.
    recent = levels[-5:]
    return max(recent) - min(recent) <= tolerance
