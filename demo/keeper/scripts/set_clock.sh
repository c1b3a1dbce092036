#!/bin/sh
# Sets the clock of a gauge from the office's.
set -eu

station=${1:?name a station}
offset=$(office-clock --offset "$station")

if [ "$offset" -gt 2 ]; then
    gauge-shell "$station" clock --set "$(office-clock --now)"
    echo "$station: clock set, it was $offset seconds off"
else
    echo "$station: clock is right"
fi
