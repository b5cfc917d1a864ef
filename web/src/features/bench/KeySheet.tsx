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
  ["B", "What stands beside the mix"],
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
