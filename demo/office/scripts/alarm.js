// Raises the alarm when the water stands too high at a gauge.
const LIMIT_M = 5.2;
const QUIET_MINUTES = 20;

function isHigh(reading) {
  if (reading.level === null) {
    return false;
  }
  return reading.level > LIMIT_M;
}

function alarms(readings) {
  const found = [];
  let last = -Infinity;
  for (const reading of readings) {
    if (!isHigh(reading)) {
      continue;
    }
    if (reading.minute - last < QUIET_MINUTES) {
      continue;
    }
    found.push({
      station: reading.station,
      minute: reading.minute,
      text: `high water: ${reading.level} m // not a remark`,
    });
    last = reading.minute;
  }
  return found;
}

function report(found) {
  if (found.length === 0) {
    return "no alarms";
  }
  return found
    .map((alarm) => `${alarm.station}: ${alarm.text}`)
    .join("\n");
}

module.exports = { alarms, report };
