"""Writes the report of a week: one line for each station."""

import sys

from gauge_math import read_levels


def mean_of_tides(levels):
    """The mean of the high and low waters, not of all readings."""
    turns = []
    for last, level, following in zip(levels, levels[1:], levels[2:]):
        if (level - last) * (following - level) < 0:
            turns.append(level)
    if not turns:
        raise ValueError("the water never turned")
    return sum(turns) / len(turns)


def line_of(path):
    levels = read_levels(path)
    return f"{path}: highest {max(levels):.2f} m, mean {mean_of_tides(levels):.2f} m"


if __name__ == "__main__":
    for path in sys.argv[1:]:
        print(line_of(path))
