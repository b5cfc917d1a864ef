import { useEffect, useMemo, useState } from "react";
import type { Mix } from "../../api/client";
import { Tiles } from "./tiles";

/** The tiles of a mix, and a number that grows whenever new ones have come. */
export function useTiles(mix: Mix): [Tiles, number] {
  const [version, setVersion] = useState(0);
  const { id, content, channels, frames } = mix;
  const tiles = useMemo(
    () => new Tiles(id, content, channels, frames, () => setVersion((last) => last + 1)),
    [id, content, channels, frames],
  );
  useEffect(() => () => tiles.dispose(), [tiles]);
  return [tiles, version];
}
