import { TagPanel } from "../TagPanel";
import type { StationUi } from "./panel";

export const tags: StationUi = {
  title: "tags",
  Panel: ({ mix, row, line }) => <TagPanel mix={mix} row={row} line={line} />,
};
