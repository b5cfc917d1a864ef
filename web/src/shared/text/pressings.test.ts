import { expect, test } from "vitest";
import { when } from "./pressings";

test("days are named as long as they are near", () => {
  const now = new Date(2026, 10, 26, 12, 0);
  expect(when(new Date(2026, 10, 26, 0, 5).toISOString(), now)).toBe("today, 00:05");
  expect(when(new Date(2026, 10, 25, 23, 59).toISOString(), now)).toBe("yesterday, 23:59");
  expect(when(new Date(2026, 10, 24, 23, 59).toISOString(), now)).toBe("24 Nov");
  expect(when(new Date(2025, 10, 24).toISOString(), now)).toBe("24 Nov 2025");
});
