import type { Row } from "../../api/client";
import { type Command, useCommands } from "../../shared/commands/commands";
import { useSession } from "./session";

/** Settings by name: the station they are at, and their label there. */
const SETTINGS: readonly (readonly [name: string, kind: string, label: string])[] = [
  ["Level", "level", "Level"],
  ["Group", "level", "Group"],
  ["Rate", "rate", "Rate"],
  ["Quality", "rate", "Quality"],
  ["Channels", "channels", "Channels"],
  ["Depth", "depth", "Depth"],
  ["Dither", "depth", "Dither"],
  ["Format", "codec", "Format"],
  ["Bit rate", "codec", "Bit rate"],
  ["Find smallest transparent setting", "codec", "Find smallest transparent setting"],
  ["Remove DC offset", "source", "Remove DC offset"],
  ["High-pass", "source", "High-pass"],
  ["Gain", "source", "Gain"],
  ["Limiter", "source", "Limiter at"],
  ["End of range", "range", "End of the range"],
  ["Fade in", "range", "Fade in"],
  ["Fade out", "range", "Fade out"],
  ["Silence before", "range", "Silence before"],
  ["Silence after", "range", "Silence after"],
  ["Tag sheet", "tags", "Title"],
  ["Label pattern", "name", "Label pattern"],
  ["Send to", "name", "Send to"],
  ["If the file exists", "name", "If the file exists"],
];

/** Controls outside the panel by name: what they are called on the page, and whether they open. */
const CONTROLS: readonly (readonly [name: string, label: string])[] = [
  ["Range start", "From"],
  ["Range end", "To"],
  ["Add or suggest ranges", "Add or suggest ranges"],
  ["Tempo", "Tempo"],
  ["Markers", "Markers"],
  ["Time units", "view of the waveform"],
  ["Snapping", "view of the waveform"],
  ["Scale of the waveform", "view of the waveform"],
  ["Meter and volume", "Meter and volume"],
  ["Save to", "Save to"],
  ["Findings", "finding"],
  ["Play as pressed", "Play as pressed"],
];

/** The control of a name in a part of the page: by its label, by what it is called, or by its words. */
function controlIn(part: ParentNode, name: string): HTMLElement | undefined {
  const label = [...part.querySelectorAll("label")].find((one) => one.textContent === name);
  const labelled = label && document.getElementById(label.htmlFor);
  if (labelled) return labelled;
  return [...part.querySelectorAll<HTMLElement>("button, input, [role=radiogroup], [aria-label]")].find(
    (one) => (one.getAttribute("aria-label") ?? one.textContent ?? "").includes(name),
  );
}

const TRIES = 40;

/** Focuses a control once it is there; one that opens something is opened. */
function lead(where: string, name: string, opens: boolean, tries = TRIES): void {
  const part = document.querySelector(where);
  const found = part && controlIn(part, name);
  if (!found) {
    if (tries) setTimeout(() => lead(where, name, opens, tries - 1), 50);
    return;
  }
  found.scrollIntoView({ block: "center" });
  const takes = found.matches("input, button, textarea");
  (takes ? found : (found.querySelector<HTMLElement>("input, button") ?? found)).focus();
  if (opens && found instanceof HTMLButtonElement) found.click();
}

/** Every setting of the selected delivery and every control of the bench, found by its name or an everyday word. */
export function useFieldCommands(row: Row | undefined): void {
  const session = useSession();
  const settings: Command[] = row
    ? SETTINGS.map(([name, kind, label]) => ({
        name,
        thing: "setting",
        run: () => {
          session.chooseStation(row, kind);
          lead(".path-body", label, false);
        },
      }))
    : [];
  const controls: Command[] = CONTROLS.map(([name, label]) => ({
    name,
    thing: "control",
    run: () => lead(".bench", label, true),
  }));
  useCommands([...settings, ...controls]);
}
