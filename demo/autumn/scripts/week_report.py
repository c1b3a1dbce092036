"""Writes the report of a week: one line for each station."""

import sys

from gauge_math import read_levels
from report_parts import mean_of_tides


def line_of(path):
    levels = read_levels(path)
    return f"{path}: highest {max(levels):.2f} m, mean {mean_of_tides(levels):.2f} m"


if __name__ == "__main__":
    for path in sys.argv[1:]:
        print(line_of(path))
