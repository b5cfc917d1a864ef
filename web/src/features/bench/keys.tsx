import { useEffect, useRef } from "react";

type Action = (event: KeyboardEvent) => void;

/** Keys of the bench by name: `mod` is Control, or Command where there is one. */
export function useKeys(actions: Readonly<Record<string, Action>>): void {
  const current = useRef(actions);
  current.current = actions;
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const target = event.target;
      if (
        target instanceof HTMLElement &&
        target.closest("input, textarea, [role=dialog], [role=slider], [role=separator]")
      )
        return;
      const onButton = target instanceof HTMLElement && target.closest("button, a") !== null;
      // Space and Enter belong to the button that has the focus.
      if (onButton && (event.key === " " || (event.key === "Enter" && !event.ctrlKey && !event.metaKey)))
        return;
      // In the tree the arrows go from station to station.
      if (target instanceof HTMLElement && target.closest("[data-arrows]") && event.key.startsWith("Arrow"))
        return;
      const action = current.current[nameOf(event)];
      if (!action) return;
      event.preventDefault();
      action(event);
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}

function nameOf(event: KeyboardEvent): string {
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  if (!event.ctrlKey && !event.metaKey) return key;
  return `mod+${event.shiftKey ? "shift+" : ""}${key.toLowerCase()}`;
}

const SHEET: readonly (readonly [string, string])[] = [
  ["Space", "Play the range from the cursor, or stop"],
  ["S", "Hear the start"],
  ["E", "Hear the end"],
  ["[  and  ]", "Set the start or the end of the range here"],
  ["← →", "Move the cursor by 10 ms; with Shift 100 ms, with Alt one sample"],
  ["← → on an edge", "Nudge that edge by the same steps"],
  ["Home, End", "Cursor to the start or the end of the range"],
  ["+  −  0", "Zoom in, zoom out, whole mix"],
  ["M", "Set a marker here"],
  [",  and  .", "To the marker before, or the next"],
  ["← →, Delete on a marker", "Nudge it, or take it away"],
  ["N", "Add a range from here"],
  ["↑ ↓ ← → on the line between two parts", "Make one of them larger"],
  ["D", "Add deliveries"],
  ["Shift and drag", "Add a range; with Alt an edge is dragged without snapping"],
  ["Page Up, Page Down", "From range to range"],
  ["F2, Delete on a range", "Name it, or take it away"],
  ["← → ↑ ↓ in the ticket", "From station to station, from row to row"],
  ["Ctrl Z, Ctrl Shift Z", "Undo, redo"],
  ["Ctrl Enter", "Press"],
  ["?", "This sheet"],
];

export function KeySheet() {
  return (
    <dl className="key-sheet">
      {SHEET.map(([key, what]) => (
        <div key={key}>
          <dt>
            <kbd>{key}</kbd>
          </dt>
          <dd>{what}</dd>
        </div>
      ))}
    </dl>
  );
}
