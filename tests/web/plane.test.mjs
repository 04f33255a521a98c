// The page's plane against Python's, by a table of cases: PLANE_CASES is a JSON file of [{plane, range, angle, ahead, other}].

import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";

import { placeOf, polarOf } from "../../src/mudlamp/web/static/js/lamp/plane.js";

const cases = JSON.parse(readFileSync(process.env.PLANE_CASES, "utf8"));
const near = (found, wanted, what) => assert.ok(Math.abs(found - wanted) < 1e-9, `${what}: ${found}, Python says ${wanted}`);

for (const fan of ["ahead", "below", "flat"]) {
  test(`the plane of the fan ${fan}`, () => {
    const own = cases.filter((one) => one.plane.fan === fan);
    assert.ok(own.length >= 100);
    for (const { plane, range, angle, ahead, other } of own) {
      const place = placeOf(plane, range, angle);
      near(place[0], ahead, "ahead");
      near(place[1], other, "other");
      const polar = polarOf(plane, ahead, other);
      near(polar[0], range, "range");
      // A beam that looks straight back is at half a turn either way.
      near(Math.cos(polar[1] - angle), 1, "angle");
    }
  });
}
