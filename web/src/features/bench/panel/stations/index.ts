import { channels } from "./channels";
import { codec } from "./codec";
import { depth } from "./depth";
import { finish } from "./finish";
import { level } from "./level";
import { name } from "./name";
import type { StationUi } from "./panel";
import { range } from "./range";
import { rate } from "./rate";
import { source } from "./source";
import { tags } from "./tags";

/** Every kind of station by the name that the server has for it. */
export const STATIONS: Readonly<Record<string, StationUi>> = {
  source,
  range,
  finish,
  channels,
  rate,
  level,
  depth,
  codec,
  tags,
  name,
};
