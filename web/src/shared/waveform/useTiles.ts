import { useEffect, useMemo, useState } from "react";
import { Tiles } from "./tiles";

interface Waved {
  readonly id: number;
  readonly content: string;
  readonly channels: number;
  readonly frames: number;
}

/** The tiles of a mix, and a number that grows whenever new ones have come. */
export function useTiles(mix: Waved): [Tiles, number] {
  const [version, setVersion] = useState(0);
  const { id, content, channels, frames } = mix;
  const tiles = useMemo(
    () => new Tiles(id, content, channels, frames, () => setVersion((last) => last + 1)),
    [id, content, channels, frames],
  );
  useEffect(() => () => tiles.dispose(), [tiles]);
  return [tiles, version];
}
