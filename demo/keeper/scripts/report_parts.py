"""What the reports of weeks and months have in common."""


def is_whole(levels, days):
    """Whether a reading every ten minutes is there."""
    return len(levels) == days * 24 * 6
