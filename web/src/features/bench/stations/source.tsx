import { FinishControls } from "../FinishControls";
import { MixFigures } from "../MeasureFigures";
import { DownmixChoice, InTheFile } from "../SourceFile";
import type { StationUi } from "./panel";

export const source: StationUi = {
  title: "the mix",
  heading: "What comes in",
  Panel: ({ mix, mode }) => (
    <>
      {mix.file_channels > 2 && <DownmixChoice mix={mix} />}
      <FinishControls mix={mix} />
      <MixFigures mix={mix} mode={mode} />
      <InTheFile mix={mix} />
    </>
  ),
};
