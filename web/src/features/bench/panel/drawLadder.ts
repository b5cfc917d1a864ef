import type { RungView } from "../../../api/client";
import { coloursOf, prepare } from "../../../shared/waveform/draw";

const FOOT = 20;
const LEFT = 44;
const RIGHT = 8;
const TOP = 12;
const LEAST_DB = 4;
const MOST_DB = 30;
const LEVELS = [10, 20, 30];
/** Three marks, distinct without colour: full where no difference is predicted, half, hollow. */
const RADIUS = 4.5;
const LINE_HEIGHT = 12;

/** Size against the margin below the masking threshold; the codecs as lines, the proposed setting ringed. */
export function drawLadder(
  canvas: HTMLCanvasElement,
  rungs: readonly RungView[],
  smallest: RungView | null,
): void {
  const { pen, width, height } = prepare(canvas);
  const colours = coloursOf(canvas);
  const most = Math.max(...rungs.map((one) => one.bytes), 1);
  const least = 0.85 * Math.min(...rungs.map((one) => one.bytes));
  const xOf = (bytes: number) => LEFT + ((bytes - least) / (most - least)) * (width - LEFT - RIGHT - 10);
  const below = (one: RungView) => Math.max(LEAST_DB, Math.min(MOST_DB, -(one.nmr_db ?? -MOST_DB)));
  const yOf = (db: number) => TOP + ((MOST_DB - db) / (MOST_DB - LEAST_DB)) * (height - FOOT - TOP);
  pen.font = `11px ${getComputedStyle(canvas).fontFamily}`;
  for (const db of LEVELS) {
    pen.fillStyle = colours.rule;
    pen.fillRect(LEFT, Math.round(yOf(db)), width - LEFT - RIGHT, 1);
    pen.fillStyle = colours.quiet;
    pen.textAlign = "right";
    pen.fillText(`−${db} dB`, LEFT - 5, yOf(db) + 4);
  }
  pen.textAlign = "left";
  pen.fillText(`${(least / 1e6).toFixed(1)} MB`, LEFT, height - 5);
  pen.textAlign = "right";
  pen.fillText(`${(most / 1e6).toFixed(1)} MB`, width - RIGHT, height - 5);
  const names: { name: string; x: number; y: number }[] = [];
  for (const codec of new Set(rungs.map((one) => one.codec))) {
    pen.strokeStyle = colours.outside;
    pen.lineWidth = 1;
    pen.beginPath();
    const family = rungs.filter((one) => one.codec === codec);
    for (const one of family) pen.lineTo(xOf(one.bytes), yOf(below(one)));
    pen.stroke();
    const last = family.at(-1);
    if (last)
      names.push({
        name: codec.replace(/^Ogg | in MP4$/g, ""),
        x: xOf(last.bytes) + RADIUS,
        y: yOf(below(last)) - 8,
      });
  }
  for (const one of rungs) {
    const passes = one.prediction === "none" || one.prediction === "same";
    pen.fillStyle = passes ? colours.edge : colours.ground;
    pen.strokeStyle = passes ? colours.edge : one.prediction === "perhaps" ? colours.loudness : colours.over;
    pen.lineWidth = 1.5;
    pen.beginPath();
    pen.arc(xOf(one.bytes), yOf(below(one)), RADIUS, 0, 2 * Math.PI);
    pen.fill();
    pen.stroke();
  }
  // Where families end beside each other their names stand below one another.
  pen.fillStyle = colours.ink;
  pen.strokeStyle = colours.ground;
  pen.lineWidth = 3;
  names.sort((one, other) => one.y - other.y);
  names.forEach(({ name, x, y }, at) => {
    const above = names[at - 1];
    const place =
      above && y - above.y < LINE_HEIGHT && Math.abs(x - above.x) < 60 ? above.y + LINE_HEIGHT : y;
    names[at] = { name, x, y: place };
    pen.strokeText(name, x, place);
    pen.fillText(name, x, place);
  });
  if (smallest) {
    pen.strokeStyle = colours.ink;
    pen.lineWidth = 1.5;
    pen.beginPath();
    pen.arc(xOf(smallest.bytes), yOf(below(smallest)), RADIUS + 4, 0, 2 * Math.PI);
    pen.stroke();
  }
}
