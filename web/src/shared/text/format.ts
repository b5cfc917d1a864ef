const MINUS = "−";

/** A frame as m:ss.mmm, or h:mm:ss.mmm from an hour on. */
export function clock(frame: number, rateHz: number, decimals = 3): string {
  const scale = 10 ** decimals;
  const units = Math.round((frame * scale) / rateHz);
  const seconds = Math.floor(units / scale);
  const hours = Math.floor(seconds / 3600);
  const minutes = Math.floor(seconds / 60) % 60;
  const head = hours ? `${hours}:${String(minutes).padStart(2, "0")}` : String(minutes);
  const tail = decimals ? `.${String(units % scale).padStart(decimals, "0")}` : "";
  return `${head}:${String(seconds % 60).padStart(2, "0")}${tail}`;
}

/** A level with its sign and unit; null is digital silence. */
export function level(db: number | null, unit = "dBFS"): string {
  if (db === null) return `${MINUS}∞ ${unit}`;
  const rounded = Math.round(db * 10) / 10;
  const sign = rounded > 0 ? "+" : rounded < 0 ? MINUS : "";
  return `${sign}${Math.abs(rounded).toFixed(1)} ${unit}`;
}

export function rate(hz: number): string {
  return `${hz / 1000} kHz`;
}

/** A size in kB, MB or GB of powers of ten: the larger unit from where the smaller one would print 1000. */
export function bytes(count: number): string {
  if (count < 999_500) return `${Math.max(count ? 1 : 0, Math.round(count / 1e3))} kB`;
  return count < 999_950_000 ? `${(count / 1e6).toFixed(1)} MB` : `${(count / 1e9).toFixed(2)} GB`;
}

/** A duration that someone waits for, in one unit. */
export function seconds(value: number): string {
  if (value < 0.95) return "under 1 s";
  if (value < 90) return `${Math.round(value)} s`;
  return value < 5400 ? `${Math.round(value / 60)} min` : `${Math.round(value / 3600)} h`;
}

/** A counted noun with thousands set apart. */
export const counted = (count: number, noun: string, plural = `${noun}s`) =>
  `${count.toLocaleString("en-GB")} ${count === 1 ? noun : plural}`;

export function channels(count: number): string {
  return count === 2 ? "stereo" : count === 1 ? "mono" : `${count} channels`;
}
