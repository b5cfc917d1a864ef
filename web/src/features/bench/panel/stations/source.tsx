import { MixFigures, PartFigures } from "../../range/MeasureFigures";
import { PartChoice } from "../../stems/PartChoice";
import { FinishControls } from "../FinishControls";
import { DownmixChoice, InTheFile } from "../SourceFile";
import { ownWords, type StationUi } from "./panel";

export const source: StationUi = {
  title: "Source",
  said: ownWords,
  Panel: ({ mix, mode, line, row }) => (
    <>
      <PartChoice mix={mix} line={line} />
      {row.part && <PartFigures row={row} />}
      {mix.origin && <p>{mix.origin}</p>}
      {mix.file_channels > 2 && <DownmixChoice mix={mix} />}
      <FinishControls mix={mix} />
      {row.part && <h4>Mix</h4>}
      <MixFigures mix={mix} mode={mode} />
      <InTheFile mix={mix} />
    </>
  ),
};
