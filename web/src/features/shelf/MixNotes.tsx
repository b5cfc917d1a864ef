import { useMutation, useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { api, type FileChange, type ShelfMix } from "../../api/client";
import { ChangeNote, sentence } from "../../shared/ChangeNote";
import { useOtherVersion } from "../../shared/useChanges";

interface MixNotesProps {
  mix: ShelfMix;
  change: FileChange | undefined;
  /** The title of the mix that it may be a version of. */
  likely: string | undefined;
}

/** What a person should decide about a mix: its file was changed, or it may be a version of another one. */
export function MixNotes({ mix, change, likely }: MixNotesProps) {
  return (
    <>
      {change && <ChangeNote change={change} title={mix.title} />}
      {likely && mix.likely_of !== null && <LikelyNote mix={mix} of={mix.likely_of} likely={likely} />}
    </>
  );
}

function LikelyNote({ mix, of, likely }: { mix: ShelfMix; of: number; likely: string }) {
  const other = useOtherVersion();
  const differences = useQuery({
    queryKey: ["beside", mix.content, of],
    queryFn: () => api.differs(mix.id, of),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const pile = useMutation({ mutationFn: () => api.pileUp([of, mix.id]), onSuccess: other });
  const alone = useMutation({ mutationFn: () => api.standAlone(mix.id) });
  const problem = pile.error ?? alone.error;
  return (
    <section className="change" aria-label={`${mix.title} may be a version of ${likely}`}>
      <p>
        <b>A new version of {likely}?</b> {sentence(differences.data?.sentences ?? [])}
      </p>
      <div className="change-acts">
        <Button size="small" type="primary" loading={pile.isPending} onClick={() => pile.mutate()}>
          Add as version
        </Button>
        <Button size="small" type="text" loading={alone.isPending} onClick={() => alone.mutate()}>
          Keep separate
        </Button>
      </div>
      {problem && (
        <p className="field-error" role="alert">
          {problem.message}
        </p>
      )}
    </section>
  );
}
