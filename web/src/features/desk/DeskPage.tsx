import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { api, type VoiceRequest } from "../../api/client";
import { BlindResult, BlindTest } from "../../shared/desk/BlindTest";
import { DeskRoom } from "../../shared/desk/DeskRoom";
import { useDesk } from "../../shared/desk/useDesk";
import { useDeskKeys } from "../../shared/desk/useDeskKeys";
import { usePassages } from "../../shared/desk/usePassages";
import type { Mode } from "../../shared/theme";

/** The sources in a link to the listening desk, besides the mix. */
export function besideOf(text: string | null): VoiceRequest[] {
  try {
    const found: unknown = JSON.parse(text ?? "[]");
    return Array.isArray(found) ? found.filter((one) => one && typeof one === "object") : [];
  } catch {
    return [];
  }
}

/**
 * A mix at the listening desk, before pressing: with settings of its codec comparison, other mixes,
 * other pressings.
 */
export function DeskPage({ mode }: { mode: Mode }) {
  const mixId = Number(useParams().mixId);
  const [query, setQuery] = useSearchParams();
  const beside = besideOf(query.get("beside"));
  const setBeside = (voices: VoiceRequest[]) =>
    setQuery({ beside: JSON.stringify(voices) }, { replace: true });
  const mix = useQuery({ queryKey: ["shelf", "mix", mixId], queryFn: () => api.mix(mixId), retry: false });
  const opening = useDesk([{ mix_id: mixId }, ...beside]);
  const { control } = opening;
  const several = (control?.desk.voices.length ?? 0) > 1;
  const passages = usePassages(control, null, null);
  const [blind, setBlind] = useState(false);
  useDeskKeys(
    blind ? null : control,
    passages,
    () => control && control.desk.voices.length > 1 && setBlind(true),
  );
  const tests = useQuery({
    queryKey: ["pressings", "of mix", mixId, "blind-tests"],
    queryFn: () => api.blindTestsOfMix(mixId),
  });
  return (
    <div className="proof">
      <header className="page-head">
        <h1>Listening desk</h1>
        {mix.data && (
          <p>
            {mix.data.title}, before it is pressed · <Link to={`/bench/${mixId}`}>back to the bench</Link>
          </p>
        )}
      </header>
      {mix.error && (
        <p className="sheet note" role="alert">
          {mix.error.message}
        </p>
      )}
      {control && blind ? (
        <BlindTest
          control={control}
          passages={passages}
          mix={mix.data ?? null}
          mode={mode}
          close={() => setBlind(false)}
        />
      ) : (
        <DeskRoom
          opening={opening}
          passages={passages}
          mix={mix.data ?? null}
          mode={mode}
          extras={beside}
          setExtras={setBeside}
          without={{ pressing: 0, mix: mixId }}
          shows={mix.data?.title}
          blind={several ? () => setBlind(true) : null}
        >
          {tests.data?.map((test) => (
            <BlindResult key={test.id} test={test} />
          ))}
        </DeskRoom>
      )}
    </div>
  );
}
