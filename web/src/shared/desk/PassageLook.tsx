import { useQuery } from "@tanstack/react-query";
import { api } from "../../api/client";
import { drawSpectra, Picture } from "../Picture";
import { level } from "../text/format";
import type { Mode } from "../theme";
import type { DeskControl } from "./useDesk";

const MOST_S = 60;

/** The looped passage of the selected source and of the mix: spectrum, difference, masking threshold. */
export function PassageLook({ control, mode }: { control: DeskControl; mode: Mode }) {
  const { desk, choice, snapshot } = control;
  const { loop } = snapshot;
  const voice = desk.voices[choice.slot];
  const fits = loop !== null && loop.end - loop.start <= MOST_S * desk.rate_hz;
  const may =
    fits &&
    choice.slot > 0 &&
    voice?.state === "ready" &&
    voice.mix_id === null &&
    desk.voices[0]?.kind === "mix";
  const found = useQuery({
    queryKey: ["passage", desk.id, choice.slot, loop],
    queryFn: () => api.passage(desk.id, choice.slot, loop?.start ?? 0, loop?.end ?? 0),
    enabled: may,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (!may) return null;
  const look = found.data;
  return (
    <figure className="passage-look">
      <figcaption>
        Spectrum, this passage: <span className="of-mix">the mix</span>,{" "}
        <span className="of-file">the file</span>, <span className="of-difference">difference</span>,{" "}
        <span className="of-masked">masking threshold</span>
        {look && (
          <>
            . Difference <b>{level(look.rms_dbfs, "dBFS")}</b>. {look.sentence}
          </>
        )}
      </figcaption>
      {found.error && <p role="alert">{found.error.message}</p>}
      {found.isPending && <p role="status">Analysing passage …</p>}
      {look && (
        <Picture
          label="Spectrum of the passage: mix, file, difference and masking threshold"
          mode={mode}
          draw={(canvas) =>
            drawSpectra(canvas, {
              curves: [
                { points: look.mix, colour: "outside" },
                { points: look.file, colour: "wave" },
                ...(look.rms_dbfs === null ? [] : [{ points: look.difference, colour: "edge" as const }]),
                { points: look.masked, colour: "loudness", dashed: true },
              ],
              lastHz: Math.min(desk.rate_hz / 2, 24_000),
              topDb: -20,
              floorDb: -160,
              levels: [-40, -80, -120],
            })
          }
        />
      )}
    </figure>
  );
}
