"""What the reports of weeks and months have in common."""


def is_whole(levels, days):
    """Whether a reading every ten minutes is there."""
    return len(levels) == days * 24 * 6


def mean_of_tides(levels):
    """The mean of the high and low waters, not of all readings."""
    turns = []
    for last, level, following in zip(levels, levels[1:], levels[2:]):
        if (level - last) * (following - level) < 0:
            turns.append(level)
    if not turns:
        raise ValueError("the water never turned")
    return sum(turns) / len(turns)
