import { expect, it } from "vitest";
import { fits } from "./commands";
import { SYNONYMS, wordsFor } from "./synonyms";

/** Words that people use, and what the best find for each has to be among. */
const EVERYDAY: Readonly<Record<string, string>> = {
  normalise: "Level", normalize: "Level", louder: "Level Gain", quieter: "Level Gain", lufs: "Level Meter and volume",
  loudness: "Level Meter and volume", volume: "Level Gain Meter and volume", limiter: "Limiter", brickwall: "Limiter",
  ceiling: "Level Limiter", trim: "Trim silence Gain Range start Range end", crop: "Trim silence Range start Range end",
  fade: "Fade in Fade out", "fade out": "Fade out", export: "Press Save to Markers Add deliveries", bounce: "Press",
  render: "Press", save: "Press Save to Sets of deliveries", folder: "Save to", destination: "Save to", directory: "Save to", mono: "Channels Play as pressed",
  stereo: "Channels", split: "Channels Add or suggest ranges", dither: "Dither", "noise shaping": "Dither", silence: "Trim silence Silence before Silence after",
  gap: "Silence before Silence after", tempo: "Tempo", bpm: "Tempo", tap: "Tempo", bars: "Tempo Time units Add or suggest ranges",
  loop: "Loop on/off End of range", repeat: "Loop on/off", cycle: "Loop on/off", level: "Level Group Meter and volume", mp3: "Format", aac: "Format", flac: "Format",
  wav: "Format", opus: "Format", m4a: "Format", codec: "Format", convert: "Format Rate Press", burn: "Orders", cd: "Orders",
  playlist: "Orders", upload: "Outbox Send to", email: "Outbox Send to", share: "Outbox Send to", compare: "Listening desk Proof",
  abx: "Listening desk", blind: "Listening desk", metadata: "Tag sheet Tags", artist: "Tag sheet", title: "Tag sheet", isrc: "Tag sheet Tags", artwork: "Tag sheet",
  cover: "Tag sheet", "file name": "Label pattern", rename: "Label pattern Rename range", overwrite: "If the file exists", "sample rate": "Rate", resample: "Rate",
  khz: "Rate", "bit depth": "Depth", "24": "Depth", kbps: "Bit rate", smaller: "Bit rate Find smallest transparent setting", compress: "Format Find smallest transparent setting",
  "low cut": "High-pass", rumble: "High-pass", dc: "Remove DC offset", clipping: "Findings", errors: "Findings", warnings: "Findings", history: "Pressings",
  queue: "Pressings", presets: "Briefs Sets of deliveries", preset: "Briefs Add deliveries Sets of deliveries", stems: "Stems and captures", multitrack: "Stems and captures", marker: "Add a marker at cursor Markers",
  cue: "Add a marker at cursor Markers", chapters: "Markers Add or suggest ranges", snap: "Snapping", zoom: "Scale of the waveform", verify: "Proof", checksum: "Proof", tail: "End of range Trim silence Silence after",
  reverb: "End of range", crossfade: "End of range", headphones: "Meter and volume", listen: "Play range from cursor / stop Listening desk", undo: "Undo", import: "Shelf Markers",
  album: "Orders Group Tag sheet", usual: "Sets of deliveries", favourite: "Sets of deliveries", preview: "Play range from cursor / stop Play as pressed",
}; // biome-ignore format: a table reads best in lines

it("finds what each of eighty everyday words means", () => {
  expect(Object.keys(EVERYDAY).length).toBeGreaterThanOrEqual(80);
  const names = Object.keys(SYNONYMS);
  const missed = Object.entries(EVERYDAY).flatMap(([word, meant]) => {
    const best = names
      .map((name) => ({ name, score: fits(wordsFor(name), word) + fits(name, word) }))
      .filter(({ score }) => score > 0)
      .sort((one, other) => other.score - one.score)[0];
    return best && meant.includes(best.name) ? [] : [`${word}: ${best?.name}`];
  });
  expect(missed).toEqual([]);
});
