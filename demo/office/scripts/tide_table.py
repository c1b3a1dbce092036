#!/usr/bin/env python3
"""Prints the tide table of one gauge: the times and heights of high and low water."""

import sys
from datetime import datetime, timedelta

LUNAR_DAY = timedelta(hours=24, minutes=50)
UNITS = {"m": 1.0, "cm": 100.0}


class Tide:
    """One high or low water."""

    def __init__(self, time, height, kind):
        self.time = time
        self.height = height
        self.kind = kind

    def line(self, unit="m"):
        return f"{self.time:%H:%M}  {self.height * UNITS[unit]:6.2f} {unit}  {self.kind}"


def spring_factor(age_of_moon):
    """How much higher the tide is at this age of the moon, in days."""
    from_new = min(age_of_moon % 14.77, 14.77 - age_of_moon % 14.77)
    return 1.0 + 0.22 * (1 - from_new / 7.38)


def table(day, first_high, range_m, age_of_moon):
    """All tides of a day."""
    tides = []
    time = first_high
    height = range_m / 2 * spring_factor(age_of_moon)
    while time.date() == day:
        tides.append(Tide(time, height, "high water"))
        tides.append(Tide(time + LUNAR_DAY / 4, -height, "low water"))
        time += LUNAR_DAY / 2
    return [tide for tide in tides if tide.time.date() == day]


def main(arguments):
    # The gauge gives the first high water of the day; the moon's age comes from the almanac.
    first_high = datetime.fromisoformat(arguments[0])
    range_m, age = float(arguments[1]), float(arguments[2])
    for tide in table(first_high.date(), first_high, range_m, age):
        print(tide.line())


if __name__ == "__main__":
    main(sys.argv[1:])
