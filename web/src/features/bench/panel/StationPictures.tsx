import type { FinishChain, Mix, Row } from "../../../api/client";
import { drawSpectra, Picture } from "../../../shared/Picture";
import type { Mode } from "../../../shared/theme";
import { coloursOf, prepare } from "../../../shared/waveform/draw";

interface Bar {
  readonly name: string;
  readonly db: number | null;
  readonly strong: boolean;
}

/** Levels as bars from the left, from a floor up to +6 dB, with full scale marked. */
function drawBars(canvas: HTMLCanvasElement, bars: readonly Bar[], floorDb: number): void {
  const { pen, width, height } = prepare(canvas);
  const colours = coloursOf(canvas);
  const font = getComputedStyle(canvas).fontFamily;
  const top = 6;
  const xOf = (db: number) =>
    6 + ((Math.max(floorDb, Math.min(top, db)) - floorDb) / (top - floorDb)) * (width - 12);
  pen.font = `11px ${font}`;
  for (let db = Math.ceil(floorDb / 12) * 12; db <= 0; db += 12) {
    pen.fillStyle = db === 0 ? colours.over : colours.rule;
    pen.fillRect(Math.round(xOf(db)), 0, 1, height - 15);
    pen.fillStyle = colours.quiet;
    pen.textAlign = "center";
    pen.fillText(db === 0 ? "0" : `−${-db}`, xOf(db), height - 4);
  }
  pen.textAlign = "left";
  const room = (height - 18) / bars.length;
  bars.forEach(({ name, db, strong }, index) => {
    const y = 3 + index * room;
    pen.fillStyle = strong ? colours.wave : colours.outside;
    if (db !== null) pen.fillRect(6, y, Math.max(2, xOf(db) - 6), room - 4);
    const inside = db !== null && xOf(db) > width * 0.55;
    pen.fillStyle = inside && strong ? colours.ground : colours.ink;
    pen.fillText(db === null ? `${name}: silence` : name, 10, y + room / 2 + 2);
  });
}

/** Peak and loudness of the range before the level station, and after it. */
export function LevelPicture({ row, mode }: { row: Row; mode: Mode }) {
  const bars: Bar[] = [
    { name: "peak before", db: row.before.sample_peak_dbfs, strong: false },
    { name: "peak after", db: row.forecast.sample_peak_dbfs, strong: true },
    { name: "loudness before", db: row.before.integrated_lufs, strong: false },
    { name: "loudness after", db: row.forecast.integrated_lufs, strong: true },
  ];
  return (
    <Picture
      mode={mode}
      label="Peak and loudness before and after"
      draw={(canvas) => drawBars(canvas, bars, -48)}
    />
  );
}

/** Left, right and what their sum would have, worked out from balance and correlation of this mix. */
export function ChannelsPicture({ mix, mode }: { mix: Mix; mode: Mode }) {
  const { balance_db: balance, correlation } = mix.measures;
  if (balance === null || correlation === null) return null;
  const left = 10 ** (balance / 20);
  const loudest = Math.max(left, 1);
  const db = (power: number) => 10 * Math.log10(Math.max(1e-9, power / loudest ** 2));
  const bars: Bar[] = [
    { name: "left", db: db(left ** 2), strong: false },
    { name: "right", db: db(1), strong: false },
    { name: "mono sum", db: db((left ** 2 + 1 + 2 * left * correlation) / 4), strong: true },
  ];
  return (
    <Picture
      mode={mode}
      label="Level of each side and of the mono sum, relative to the louder side"
      draw={(canvas) => drawBars(canvas, bars, -30)}
    />
  );
}

/** The mean spectrum of the mix as it comes, and behind the high-pass and gain of the finishing chain. */
export function FinishPicture({ mix, finish, mode }: { mix: Mix; finish: FinishChain; mode: Mode }) {
  const { spectrum } = mix.measures;
  // Second-order Butterworth: the power falls by 1 + (corner / frequency)⁴.
  const change = (hz: number) =>
    finish.gain_db - (finish.high_pass_hz ? 10 * Math.log10(1 + (finish.high_pass_hz / hz) ** 4) : 0);
  return (
    <Picture
      mode={mode}
      label="Spectrum of the mix before and after finishing"
      draw={(canvas) =>
        drawSpectra(canvas, {
          curves: [
            { points: spectrum, colour: "outside" },
            { points: spectrum, colour: "wave", shift: change },
          ],
          lastHz: mix.rate_hz / 2,
          topDb: 0,
          floorDb: -150,
          levels: [0, -50, -100, -150],
        })
      }
    />
  );
}
