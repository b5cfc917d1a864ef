import { keyWords, useCommandsHere } from "../../shared/commands/commands";

/** Gestures with key and mouse, or keys while the waveform or the ticket has the focus. */
const ELSEWHERE: readonly (readonly [string, string])[] = [
  ["← → on an edge", "Nudge the edge by 10 ms (Shift: 100 ms, Alt: 1 sample)"],
  ["+  −  0", "Zoom in, zoom out, whole mix"],
  [",  and  .", "Previous or next marker"],
  ["← →, Delete on a marker", "Nudge or delete it"],
  ["on a divider", "Resize panels"],
  ["Shift and drag", "Add a range (Alt: drag an edge without snapping)"],
  ["F2, Delete on a range", "Rename or delete it"],
  ["← → ↑ ↓ in the ticket", "Move between stations and deliveries"],
  ["Ctrl K", "Search"],
];

/**
 * The keys available here: key commands are defined in one place, and the palette finds them by the
 * same words.
 */
export function KeySheet() {
  const commands = useCommandsHere().flatMap(({ key, name }) =>
    key ? [[keyWords(key), name] as const] : [],
  );
  return (
    <dl className="key-sheet">
      {[...commands, ...ELSEWHERE].map(([key, what]) => (
        <div key={`${key} ${what}`}>
          <dt>
            <kbd>{key}</kbd>
          </dt>
          <dd>{what}</dd>
        </div>
      ))}
    </dl>
  );
}
