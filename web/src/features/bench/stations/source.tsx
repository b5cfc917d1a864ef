import { FinishControls } from "../FinishControls";
import { MixFigures } from "../MeasureFigures";
import { DownmixChoice, InTheFile } from "../SourceFile";
import { PartChoice } from "../stems/PartChoice";
import type { StationUi } from "./panel";

export const source: StationUi = {
  title: "the mix",
  heading: "What comes in",
  Panel: ({ mix, mode, line }) => (
    <>
      <PartChoice mix={mix} line={line} />
      {mix.origin && <p>{mix.origin}</p>}
      {mix.file_channels > 2 && <DownmixChoice mix={mix} />}
      <FinishControls mix={mix} />
      <MixFigures mix={mix} mode={mode} />
      <InTheFile mix={mix} />
    </>
  ),
};
