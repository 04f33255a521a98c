// The fan's plane, as core/plane.py has it: range and beam angle to ahead and down (or, lying flat, ahead and right), and back.
// `plane` is anything with {fan, tilt_rad, depth_m}, such as a session's state. A table of cases holds these two to Python's.

const LEAST_FLAT_RAD = 0.05;

// How far ahead a meter of range along a flat fan's center line goes.
const shortened = (plane) => Math.sin(Math.max(plane.tilt_rad, LEAST_FLAT_RAD));

// Where a range [m] at a beam angle [rad] is: ahead, and under the surface (or to the right) [m].
export function placeOf(plane, range, angle) {
  if (plane.fan === "flat") return [range * shortened(plane) * Math.cos(angle), range * Math.sin(angle)];
  const look = plane.tilt_rad - angle;
  return [range * Math.sin(look), plane.depth_m + range * Math.cos(look)];
}

// The range [m] and beam angle [rad] of a place: the inverse.
export function polarOf(plane, ahead, other) {
  if (plane.fan === "flat") {
    const along = ahead / shortened(plane);
    return [Math.hypot(along, other), Math.atan2(other, along)];
  }
  const down = other - plane.depth_m;
  return [Math.hypot(ahead, down), plane.tilt_rad - Math.atan2(ahead, down)];
}
