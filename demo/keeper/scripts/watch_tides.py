"""Watches the gauges of the estuary and warns the keepers."""

import time


def warning(gauge, level):
    """The sentence that a keeper reads."""
    side = "above" if level > gauge.high else "below"
    mark = gauge.high if level > gauge.high else gauge.low
    return f"{gauge.name}: {level} mm is {side} the mark at {mark} mm"


def read_all(gauges):
    levels = {}
    for gauge in gauges:
        levels[gauge.name] = gauge.read()

    return levels


def send(message, keepers):
    delivered = post(message, keepers.addresses, retry=3, wait_s=20)
    return delivered


def watch(gauges, keepers, pause_s):
    while True:
        levels = read_all(gauges)
        late = [gauge for gauge in gauges if gauge.age_s() > 900]
        for gauge in gauges:
            level = levels[gauge.name]
            if level > gauge.high or level < gauge.low:
                send(warning(gauge, level), keepers)
        time.sleep(pause_s)
