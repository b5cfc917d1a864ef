import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { api, type FileChange, type Mix, type MixUsed } from "../api/client";

/** Whether the file of a mix is not what it was; of all mixes only these are asked for, for the shelf may be long. */
export function useChange(mixId: number): FileChange | undefined {
  const changes = useQuery({ queryKey: ["shelf", "changes"], queryFn: api.changes });
  return changes.data?.find((one) => one.mix_id === mixId);
}

/** Data of a mix to reload after its audio changed. */
export function useOtherMix(): (mix: Mix) => void {
  const queries = useQueryClient();
  return (mix) => {
    queries.setQueryData(["mix", mix.id], mix);
    void queries.invalidateQueries({ queryKey: ["shelf"] });
    void queries.invalidateQueries({ queryKey: ["orders"] });
  };
}

/** The same once another version came into use; what of the bench could not be carried over stays until it was read. */
export function useOtherVersion(): (used: MixUsed) => void {
  const other = useOtherMix();
  const { notification } = App.useApp();
  return ({ mix, lost }) => {
    other(mix);
    if (lost.length) notification.warning({ title: mix.title, description: lost.join(" "), duration: 0 });
  };
}
