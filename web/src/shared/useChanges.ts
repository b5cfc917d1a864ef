import { useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type FileChange, type Mix } from "../api/client";

/** The mixes whose file is not what it was, as the shelf tells them; it is asked for once for all who look. */
export function useChange(mixId: number): FileChange | undefined {
  const shelf = useQuery({ queryKey: ["shelf"], queryFn: api.shelf });
  return shelf.data?.changes.find((one) => one.mix_id === mixId);
}

/** What is to be asked anew once another version of a mix came into use. */
export function useOtherVersion(): (mix: Mix) => void {
  const queries = useQueryClient();
  return (mix) => {
    queries.setQueryData(["mix", mix.id], mix);
    void queries.invalidateQueries({ queryKey: ["shelf"] });
    void queries.invalidateQueries({ queryKey: ["orders"] });
  };
}
