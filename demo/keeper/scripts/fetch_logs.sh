#!/bin/sh
# Brings the logs of all stations home.
set -eu
for station in $(cat stations.list); do
    gauge-shell "$station" log --since yesterday >"logs/$station.log"
done
