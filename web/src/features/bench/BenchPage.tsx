import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { api } from "../../api/client";
import { Empty } from "../../shared/Empty";
import type { Mode } from "../../shared/theme";
import { Bench } from "./Bench";
import { useDefaults } from "./queries";
import { SessionProvider, sessionOf } from "./session";

export function BenchPage({ mode }: { mode: Mode }) {
  const id = Number(useParams().mixId);
  const mix = useQuery({
    queryKey: ["mix", id],
    queryFn: () => api.mix(id),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const defaults = useDefaults();
  const error = mix.error ?? defaults.error;
  if (error) {
    return (
      <Empty title="No mix open" to="/shelf" act="Open Shelf">
        {error.message}
      </Empty>
    );
  }
  if (!mix.data || !defaults.data) return null;
  return (
    <SessionProvider value={sessionOf(mix.data, defaults.data)}>
      <Bench key={`${id} ${mix.data.content.split("-")[0]}`} mix={mix.data} mode={mode} />
    </SessionProvider>
  );
}
