import type { NamedRange } from "./types";

export const orderUrl = (id: number) => `/api/orders/${id}/document`;
export const zipUrl = (pressing: number) => `/api/pressings/${pressing}/files.zip`;
export const joinUrl = (id: number, join: number, seconds = 4) =>
  `/api/orders/${id}/joins/${join}/listen?seconds=${seconds}`;
export const logSheetUrl = (pressing: number) => `/api/pressings/${pressing}/disc/log-sheet`;

export const listenUrl = (
  mixId: number,
  range: NamedRange,
  from: number,
  to: number,
  stems: readonly number[] | null = null,
  times = 1,
  file = "",
): string => {
  const query = new URLSearchParams({
    start_frame: String(range.start_frame),
    end_frame: String(range.end_frame),
    from_frame: String(Math.round(from)),
    to_frame: String(Math.round(to)),
    edges: JSON.stringify(range.edges),
    ...(stems ? { stems: stems.join(",") } : {}),
    ...(times > 1 ? { times: String(times) } : {}),
    ...(file ? { file } : {}),
  });
  return `/api/mixes/${mixId}/listen?${query}`;
};

export const coverUrl = (mixId: number, name: string): string => `/api/mixes/${mixId}/cover/${name}`;

export const sheetsUrl = (form: "csv" | "json", mixId?: number): string =>
  `/api/tag-sheets?form=${form}${mixId === undefined ? "" : `&mix_id=${mixId}`}`;

export const briefFileUrl = (id: string): string => `/api/briefs/${id}/file`;

export const markersUrl = (mixId: number, form: "csv" | "json"): string =>
  `/api/mixes/${mixId}/markers.${form}`;

export const deskBlocksUrl = (id: string): string => `/api/desks/${id}/blocks`;

/** The audio of a trial: nothing in its address identifies X. */
export const blindBlocksUrl = (id: number, trial: number): string =>
  `/api/blind-tests/${id}/trials/${trial}/blocks`;

export const downloadUrl = (pressing: number, file: number): string =>
  `/api/pressings/${pressing}/files/${file}/download`;
