import type { DragEvent } from "react";
import { type Mix, uploadStem } from "../../../api/client";
import { filesDropped } from "../../../shared/files/dropped";
import { useUploads } from "../../../shared/files/uploads";
import type { BenchSession } from "../session";
import { useStemHands } from "./queries";

/** Stems that are dropped on the bench, a whole folder of them too, or chosen: they are sent one by one. */
export function useBringing(mix: Mix, session: BenchSession) {
  const { refresh } = useStemHands(mix.id);
  const { sending, send } = useUploads((file, progress) => uploadStem(mix.id, file, progress), refresh);
  const bring = (files: Iterable<File>) => {
    session.show({ station: { ...session.store.getState().station, kind: "stems" } });
    send(files);
  };
  return {
    send: bring,
    sending: sending.filter((one) => !one.error).length,
    failed: sending.flatMap((one) => (one.error ? `${one.name}: ${one.error}` : [])),
    drop: (event: DragEvent) => {
      if (![...event.dataTransfer.items].some((item) => item.kind === "file")) return;
      event.preventDefault();
      void filesDropped(event.dataTransfer).then(bring);
    },
  };
}
