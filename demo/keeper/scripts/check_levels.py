#!/usr/bin/env python3
"""Checks the tables of reference levels before they go to the gauges."""

import csv
import sys


def rows(path):
    with open(path, newline="") as table:
        yield from csv.DictReader(table)


def check(path):
    last = None
    for number, row in enumerate(rows(path), start=2):
        level = float(row["level_m"])
        if not 0.0 <= level <= 6.0:
            print(f"{path}:{number}: level {level} is off the board")
        if last is not None and abs(level - last) > 1.5:
            print(f"{path}:{number}: a jump of {level - last:+.2f} m")
        last = level


def main():
    for path in sys.argv[1:]:
        check(path)


if __name__ == "__main__":
    main()
