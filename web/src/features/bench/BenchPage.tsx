import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { api } from "../../api/client";
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
      <div className="empty">
        <p className="empty-title">No mix open</p>
        <p>{error.message}</p>
        <Link to="/shelf">Open Shelf</Link>
      </div>
    );
  }
  if (!mix.data || !defaults.data) return null;
  return (
    <SessionProvider value={sessionOf(mix.data, defaults.data)}>
      <Bench key={`${id} ${mix.data.content.split("-")[0]}`} mix={mix.data} mode={mode} />
    </SessionProvider>
  );
}
