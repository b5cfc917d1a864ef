const TILE = 6;

/** Each range has a colour and a pattern of its own, so that ranges are distinct without colour too. */
const PATTERNS: readonly string[] = [
  "M0 0H6V6H0Z",
  "M-1 5L5 -1M1 7L7 1",
  "M1 1h2v2h-2zM4 4h2v2h-2z",
  "M0 1.5H6M0 4.5H6",
  "M1.5 0V6M4.5 0V6",
  "M-1 5L5 -1M1 7L7 1M-1 1L5 7M1 -1L7 5",
];
const FILLED = new Set([0, 2]);

export const lookColour = (element: Element, look: number): string =>
  getComputedStyle(element)
    .getPropertyValue(`--look-${look % PATTERNS.length}`)
    .trim();

const tiles = new Map<string, CanvasPattern | null>();

/** The pattern of a look for a canvas, in its colour. */
export function lookPattern(
  pen: CanvasRenderingContext2D,
  look: number,
  colour: string,
): CanvasPattern | string {
  const key = `${look}/${colour}`;
  const kept = tiles.get(key);
  if (kept) return kept;
  const tile = document.createElement("canvas");
  tile.width = TILE;
  tile.height = TILE;
  const tilePen = tile.getContext("2d");
  if (!tilePen) return colour;
  const path = new Path2D(PATTERNS[look % PATTERNS.length]);
  tilePen.fillStyle = colour;
  tilePen.strokeStyle = colour;
  tilePen.lineWidth = 1.2;
  if (FILLED.has(look % PATTERNS.length)) tilePen.fill(path);
  else tilePen.stroke(path);
  const made = pen.createPattern(tile, "repeat");
  tiles.set(key, made);
  return made ?? colour;
}

export function Swatch({ look }: { look: number }) {
  const at = look % PATTERNS.length;
  const id = `look-${at}`;
  const colour = `var(--look-${at})`;
  return (
    <svg className="swatch" width="16" height="12" aria-hidden="true">
      <pattern id={id} width={TILE} height={TILE} patternUnits="userSpaceOnUse">
        <path
          d={PATTERNS[at]}
          fill={FILLED.has(at) ? colour : "none"}
          stroke={FILLED.has(at) ? "none" : colour}
          strokeWidth="1.2"
        />
      </pattern>
      <rect x="0.75" y="0.75" width="14.5" height="10.5" rx="2.5" fill={`url(#${id})`} stroke={colour} />
    </svg>
  );
}
