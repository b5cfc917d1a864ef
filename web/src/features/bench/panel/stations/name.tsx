import { NameControls } from "../NameControls";
import type { StationUi } from "./panel";

export const name: StationUi = {
  title: "Name",
  said: ({ settled }) => [
    settled.label_pattern,
    settled.sends_to.length ? `to ${settled.sends_to.join(", ")}` : "",
  ],
  Panel: ({ mix, row, line }) => <NameControls key={line.id} mix={mix} row={row} line={line} />,
};
