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

export function bytes(count: number): string {
  if (count < 1e6) return `${(count / 1e3).toFixed(1)} kB`;
  return count < 1e9 ? `${(count / 1e6).toFixed(1)} MB` : `${(count / 1e9).toFixed(2)} GB`;
}

export function seconds(value: number): string {
  if (value < 0.95) return "under a second";
  return value < 90 ? `${Math.round(value)} s` : `${Math.round(value / 60)} min`;
}

export function channels(count: number): string {
  return count === 2 ? "stereo" : count === 1 ? "mono" : `${count} channels`;
}
