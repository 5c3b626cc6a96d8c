import { describe, expect, it } from "vitest";

import {
  distinct,
  hours,
  minutesOn,
  plain,
  signedPercent,
  signedSpan,
  signedUm,
  span,
} from "../src/format";

describe("figures for people", () => {
  it("rounds to the next minute without losing an hour", () => {
    expect([hours(59), hours(3599), hours(7260)]).toEqual(["0:01", "1:00", "2:01"]);
  });
  it("tells short times by their unit", () => {
    expect([span(4.25), span(48), span(740), span(6000)]).toEqual([
      "4.3 s",
      "48 s",
      "12 min",
      "1:40 h",
    ]);
  });
  it("signs differences", () => {
    expect([signedSpan(0.2), signedSpan(-90), signedUm(-12.4), signedUm(0.3)]).toEqual([
      "same time",
      "−90 s",
      "−12 µm",
      "±0 µm",
    ]);
    expect([signedPercent(110, 100), signedPercent(1, 0)]).toEqual(["+10 %", ""]);
  });
  it("leaves needless zeros out", () => {
    expect([plain(0.2), plain(0.30000000000000004), plain(12)]).toEqual(["0.2", "0.3", "12"]);
  });
});

describe("ticks", () => {
  it("never say the same twice", () => {
    const close = [50.9, 51, 51.1, 51.2];
    expect(distinct(close, minutesOn(60)).map(([, word]) => word)).toEqual(["0:51"]);
    expect(distinct(close, minutesOn(0.4)).map(([, word]) => word)).toEqual([
      "0:50:54",
      "0:51:00",
      "0:51:06",
      "0:51:12",
    ]);
    expect(minutesOn(2)(125.5)).toBe("2:05:30");
  });
});
