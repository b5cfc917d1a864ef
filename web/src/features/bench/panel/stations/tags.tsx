import { TagPanel } from "../TagPanel";
import type { StationUi } from "./panel";

export const tags: StationUi = {
  title: "Tags",
  said: (row, station) => [`${station?.detail || 0} fields`, row.tags.cover ? "cover" : "no cover"],
  Panel: ({ mix, row, line }) => <TagPanel mix={mix} row={row} line={line} />,
};
