#!/usr/bin/env python3
"""Draws the levels of the Merrow estuary gauges for one day.

Usage: plot_levels.py LEVELS.csv [--station ID ...] [--out PICTURE.svg]

Levels are in millimetres above chart datum; times are in minutes since
midnight. A gauge's own zero is corrected with the offset in GAUGES.
"""

import argparse
import csv
import sys
from pathlib import Path

MINUTES_A_DAY = 24 * 60
WIDTH, HEIGHT = 960, 320
MARGIN = 40
COLOURS = ["#0b6257", "#7a4d05", "#5b3f8c", "#94344a"]

# Identifier, place, offset of the gauge's zero in millimetres.
GAUGES = [
    ("MER-001", "Alder Reach", 245),
    ("MER-002", "Ash Hythe", 157),
    ("MER-003", "Beacon Point", 282),
    ("MER-004", "Birch Bank", 413),
    ("MER-005", "Bracken Pool", 104),
    ("MER-006", "Buoy Sluice", 117),
    ("MER-007", "Cairn Landing", 354),
    ("MER-008", "Chapel Bridge", 128),
    ("MER-009", "Cobble Sluice", 267),
    ("MER-010", "Coot Landing", 378),
    ("MER-011", "Cormorant Bridge", 109),
    ("MER-012", "Crane Reach", 339),
    ("MER-013", "Curlew Hythe", 189),
    ("MER-014", "Dunlin Point", 99),
    ("MER-015", "Eider Bank", 124),
    ("MER-016", "Elm Pool", 302),
    ("MER-017", "Fennel Point", 294),
    ("MER-018", "Fern Bank", 115),
    ("MER-019", "Ferry Pool", 203),
    ("MER-020", "Gannet Sluice", 126),
    ("MER-021", "Gorse Landing", 362),
    ("MER-022", "Grebe Bridge", 297),
    ("MER-023", "Gull Reach", 110),
    ("MER-024", "Harrow Hythe", 369),
    ("MER-025", "Heron Bridge", 143),
    ("MER-026", "Ivy Reach", 194),
    ("MER-027", "Juniper Hythe", 402),
    ("MER-028", "Kelp Point", 401),
    ("MER-029", "Kiln Bank", 378),
    ("MER-030", "Knot Pool", 111),
    ("MER-031", "Lantern Sluice", 375),
    ("MER-032", "Larch Landing", 379),
    ("MER-033", "Limpet Pool", 283),
    ("MER-034", "Lowan Sluice", 105),
    ("MER-035", "Mallow Landing", 193),
    ("MER-036", "Marram Bridge", 103),
    ("MER-037", "Marsh Reach", 365),
    ("MER-038", "Merl Hythe", 148),
    ("MER-039", "Mill Point", 228),
    ("MER-040", "Mussel Bank", 294),
    ("MER-041", "Oar Hythe", 153),
    ("MER-042", "Osprey Point", 356),
    ("MER-043", "Otter Bank", 140),
    ("MER-044", "Pebble Pool", 372),
    ("MER-045", "Petrel Sluice", 237),
    ("MER-046", "Pier Landing", 366),
    ("MER-047", "Pike Bridge", 172),
    ("MER-048", "Plover Reach", 132),
    ("MER-049", "Quay Landing", 377),
    ("MER-050", "Rail Bridge", 372),
    ("MER-051", "Reed Reach", 407),
    ("MER-052", "Rook Hythe", 176),
    ("MER-053", "Rowan Point", 270),
    ("MER-054", "Rush Bank", 129),
    ("MER-055", "Salt Pool", 360),
    ("MER-056", "Samphire Sluice", 112),
    ("MER-057", "Sedge Bank", 368),
    ("MER-058", "Shelf Pool", 110),
    ("MER-059", "Skerry Sluice", 396),
    ("MER-060", "Smelt Landing", 185),
    ("MER-061", "Snipe Bridge", 334),
    ("MER-062", "Spar Reach", 352),
    ("MER-063", "Sprat Hythe", 298),
    ("MER-064", "Staith Point", 240),
    ("MER-065", "Stilt Reach", 318),
    ("MER-066", "Tansy Hythe", 379),
    ("MER-067", "Teal Point", 312),
    ("MER-068", "Tern Bank", 265),
    ("MER-069", "Thrift Pool", 233),
    ("MER-070", "Turnstone Sluice", 207),
    ("MER-071", "Wharf Landing", 172),
    ("MER-072", "Whimbrel Bridge", 204),
    ("MER-073", "Willow Sluice", 121),
    ("MER-074", "Wrack Landing", 374),
    ("MER-075", "Wren Bridge", 233),
]


class LevelError(Exception):
    """A line of the table that cannot be used."""

    def __init__(self, line, reason):
        super().__init__(f"line {line}: {reason}")
        self.line = line
        self.reason = reason


def offsets():
    """The offset of each gauge by its identifier."""
    return {identifier: offset for identifier, _, offset in GAUGES}


def places():
    """The place of each gauge by its identifier."""
    return {identifier: place for identifier, place, _ in GAUGES}


def parse_time(text, line):
    """Minutes since midnight of a time such as 06:40."""
    hours, _, minutes = text.partition(":")
    if not (hours.isdigit() and minutes.isdigit()):
        raise LevelError(line, f"not a time: {text}")
    total = int(hours) * 60 + int(minutes)
    if total >= MINUTES_A_DAY:
        raise LevelError(line, f"later than a day: {text}")
    return total


def parse_level(text, line):
    """A level in millimetres; an empty field is a missing reading."""
    text = text.strip()
    if not text:
        return None
    try:
        return round(float(text) * 1000)
    except ValueError:
        raise LevelError(line, f"not a level: {text}") from None


def read_levels(path, wanted):
    """The readings of the wanted gauges, each a list of (time, level)."""
    zero = offsets()
    readings = {identifier: [] for identifier in wanted}
    with open(path, newline="") as table:
        for number, row in enumerate(csv.DictReader(table), start=2):
            identifier = row["station"]
            if identifier not in readings:
                continue
            time = parse_time(row["time"], number)
            level = parse_level(row["level_m"], number)
            if level is not None:
                level -= zero[identifier]
            readings[identifier].append((time, level))
    return readings


def smooth(levels, span=3):
    """A running mean; missing readings neither count nor move."""
    result = []
    for at, (time, level) in enumerate(levels):
        window = levels[max(0, at - span // 2) : at + span // 2 + 1]
        known = [value for _, value in window if value is not None]
        if level is None or not known:
            result.append((time, None))
        else:
            result.append((time, sum(known) / len(known)))
    return result


def high_waters(levels):
    """The times at which the water stood highest."""
    found = []
    for earlier, here, later in zip(levels, levels[1:], levels[2:]):
        if None in (earlier[1], here[1], later[1]):
            continue
        if earlier[1] < here[1] >= later[1]:
            found.append(here)
    return found


def bounds(readings):
    """The lowest and the highest level, or None when there is none."""
    known = [
        level
        for levels in readings.values()
        for _, level in levels
        if level is not None
    ]
    if not known:
        return None
    return min(known), max(known)


def scale(value, low, high, size):
    """Where a value lies between two edges of the picture."""
    if high == low:
        return size / 2
    return (value - low) / (high - low) * size


def polyline(levels, low, high, colour):
    """One gauge as a line, broken where readings are missing."""
    parts, points = [], []
    for time, level in levels + [(None, None)]:
        if level is None:
            if len(points) > 1:
                parts.append(
                    f'<polyline fill="none" stroke="{colour}" '
                    f'points="{" ".join(points)}"/>'
                )
            points = []
            continue
        x = MARGIN + scale(time, 0, MINUTES_A_DAY, WIDTH - 2 * MARGIN)
        y = HEIGHT - MARGIN - scale(level, low, high, HEIGHT - 2 * MARGIN)
        points.append(f"{x:.1f},{y:.1f}")
    return parts


def legend(identifiers):
    """A line of text for each gauge, in its colour."""
    place = places()
    for at, identifier in enumerate(identifiers):
        colour = COLOURS[at % len(COLOURS)]
        yield (
            f'<text x="{MARGIN + 180 * at}" y="20" fill="{colour}">'
            f"{identifier} {place[identifier]}</text>"
        )


def draw(readings):
    """The whole picture as SVG."""
    edges = bounds(readings)
    if edges is None:
        raise SystemExit("there is no reading to draw")
    low, high = edges
    body = list(legend(readings))
    for at, levels in enumerate(readings.values()):
        colour = COLOURS[at % len(COLOURS)]
        body.extend(polyline(smooth(levels), low, high, colour))
    return "\n".join(
        [
            f'<svg xmlns="http://www.w3.org/2000/svg" '
            f'width="{WIDTH}" height="{HEIGHT}">',
            *body,
            "</svg>",
        ]
    )


def arguments():
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("levels", type=Path)
    parser.add_argument("--station", action="append", metavar="ID")
    parser.add_argument("--out", type=Path, default=Path("levels.svg"))
    return parser.parse_args()


def main():
    options = arguments()
    wanted = options.station or [identifier for identifier, _, _ in GAUGES[:4]]
    try:
        readings = read_levels(options.levels, wanted)
    except LevelError as error:
        print(f"{options.levels}: {error}", file=sys.stderr)
        return 2
    options.out.write_text(draw(readings))
    for identifier, levels in readings.items():
        for time, level in high_waters(smooth(levels)):
            print(f"{identifier} {time // 60:02}:{time % 60:02} {level:.0f}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
