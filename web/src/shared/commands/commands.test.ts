import { describe, expect, it } from "vitest";
import { fits, keyWords } from "./commands";

describe("the typed text", () => {
  it("fits by every word, best at a beginning, whatever its case and its accents", () => {
    expect(fits("Hear the start", "hear st")).toBeGreaterThan(fits("Hear the start", "ear art"));
    expect(fits("Mühlrad", "muhl")).toBeGreaterThan(0);
    expect(fits("Hear the start", "hear end")).toBe(0);
    expect(fits("Press", "press")).toBeGreaterThan(fits("The press", "press"));
    expect(fits("Anything", "")).toBe(1);
  });
});

describe("keys", () => {
  it("are written for people", () => {
    expect([" ", "mod+shift+z", "m", "PageDown", "mod+enter"].map(keyWords)).toEqual([
      "Space",
      "Ctrl Shift Z",
      "M",
      "Page Down",
      "Ctrl Enter",
    ]);
  });
});
