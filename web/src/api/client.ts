import createClient, { type MaybeOptionalInit } from "openapi-fetch";
import type { PathsWithMethod, RequiredKeysOf, SuccessResponseJSON } from "openapi-typescript-helpers";
import type { paths } from "./generated/schema";
import type {
  Arrival,
  BatchRequest,
  BenchState,
  BlindRequest,
  BriefRequest,
  BurnRequest,
  ConverterRequest,
  DropOff,
  FilesOf,
  KeptCover,
  LabelPattern,
  LiveSource,
  MixSheet,
  RunningOrder,
  StemChange,
  TagValues,
  TempoMap,
  Verdict,
  VoiceRequest,
} from "./types";

export type * from "./types";
export * from "./urls";

const UNREADABLE = "This file changed or moved. Choose it again.";
export const UNREACHABLE =
  "No answer from the server. Running pressings continue there. Start it again if it was stopped.";

/** What the server said, or that it could not be reached; `message` is a sentence for a person. */
export class ApiError extends Error {
  readonly code: string;

  constructor(code: string, message: string) {
    super(message);
    this.code = code;
  }
}

/** An answer of the server; where there is none, or an error, an `ApiError`. */
async function fetched(input: RequestInfo, init?: RequestInit): Promise<Response> {
  const response = await fetch(input, init).catch(() => {
    throw new ApiError("server.unreachable", UNREACHABLE);
  });
  if (response.ok) return response;
  const body: unknown = await response.json().catch(() => null);
  if (body && typeof body === "object" && "message" in body && "code" in body) {
    throw new ApiError(String(body.code), String(body.message));
  }
  throw new ApiError(`http.${response.status}`, `The server rejected the request (${response.status}).`);
}

/** The hash of a mix, from what identifies its content. */
const hashOf = (content: string) => content.split("-")[0] ?? "";

const floats = async (path: string) => new Float32Array(await (await fetched(path)).arrayBuffer());

const server = createClient<paths>({ fetch: fetched });
type Method = "get" | "put" | "post" | "patch" | "delete";
type Init<M extends Method, P extends PathsWithMethod<paths, M>> = NonNullable<
  MaybeOptionalInit<paths[P], M>
>;
/** Path, query and body of a request side by side. */
type Parts<I> = Omit<I, "params"> & (I extends { params?: infer Params } ? Params : unknown);

/** Requests of one method: addresses, values and answers as the server describes them. */
const asks =
  <M extends Method>(method: M) =>
  async <P extends PathsWithMethod<paths, M>>(
    path: P,
    ...parts: RequiredKeysOf<Init<M, P>> extends never ? [Parts<Init<M, P>>?] : [Parts<Init<M, P>>]
  ) => {
    const { path: places, query, ...init } = (parts[0] ?? {}) as Record<string, unknown>;
    const asked = { ...init, params: { path: places, query } } as never;
    return (await server.request(method, path, asked)).data as SuccessResponseJSON<paths[P][M] & object>;
  };

const get = asks("get");
const put = asks("put");
const post = asks("post");
const patch = asks("patch");
const remove = asks("delete");

export const api = {
  shelf: () => get("/api/shelf"),
  mix: (mix_id: number) => get("/api/mixes/{mix_id}", { path: { mix_id } }),
  removeMix: (mix_id: number) => remove("/api/mixes/{mix_id}", { path: { mix_id } }),
  fetchPath: (path: string) => post("/api/arrivals/path", { body: { path } }),
  changes: () => get("/api/changes"),
  mixVersions: (mix_id: number) => get("/api/mixes/{mix_id}/versions", { path: { mix_id } }),
  differs: (mix_id: number, other_id: number) =>
    get("/api/mixes/{mix_id}/beside/{other_id}", { path: { mix_id, other_id } }),
  lookAtChange: (mix_id: number) => post("/api/mixes/{mix_id}/change", { path: { mix_id } }),
  takeChange: (mix_id: number) => post("/api/mixes/{mix_id}/change/take", { path: { mix_id } }),
  leaveChange: (mix_id: number) => remove("/api/mixes/{mix_id}/change", { path: { mix_id } }),
  useVersion: (mix_id: number, version: number) =>
    post("/api/mixes/{mix_id}/versions/{version}/use", { path: { mix_id, version } }),
  takeApart: (mix_id: number, version: number) =>
    post("/api/mixes/{mix_id}/versions/{version}/apart", { path: { mix_id, version } }),
  pileUp: (mix_ids: number[]) => post("/api/piles", { body: { mix_ids } }),
  standAlone: (mix_id: number) => remove("/api/mixes/{mix_id}/likely", { path: { mix_id } }),
  dismiss: (arrival_id: string) => remove("/api/arrivals/{arrival_id}", { path: { arrival_id } }),
  here: () => get("/api/here"),
  folders: (of: FilesOf) => get("/api/folders/offered", { query: of }),
  folder: (path: string, of: FilesOf) => get("/api/folders", { query: { path, ...of } }),
  makeFolder: (path: string, name: string, of: FilesOf) =>
    post("/api/folders", { body: { path, name, ...of } }),
  setUsualFolder: (of: FilesOf, path: string) => put("/api/folders/usual", { body: { path, ...of } }),
  openFolder: (number: number) => post("/api/pressings/{number}/open", { path: { number } }),
  setBench: (mix_id: number, content: string, bench: BenchState) =>
    put("/api/mixes/{mix_id}/bench", {
      path: { mix_id },
      query: { content: hashOf(content) },
      body: bench,
    }),
  /** Sent when the page is closed: it arrives although the page no longer waits for the answer. */
  leaveBench: (mix_id: number, content: string, bench: BenchState) =>
    put("/api/mixes/{mix_id}/bench", {
      path: { mix_id },
      query: { content: hashOf(content) },
      body: bench,
      keepalive: true,
    }),
  setDownmix: (mix_id: number, downmix: string) =>
    put("/api/mixes/{mix_id}/downmix", { path: { mix_id }, body: { downmix } }),
  arrival: (arrival_id: string) => get("/api/arrivals/{arrival_id}", { path: { arrival_id } }),
  readTime: (mix_id: number, text: string, tempo: TempoMap | null) =>
    post("/api/mixes/{mix_id}/time", { path: { mix_id }, body: { text, tempo } }),
  bars: (mix_id: number, tempo: TempoMap) =>
    post("/api/mixes/{mix_id}/bars", { path: { mix_id }, body: tempo }),
  proposals: (mix_id: number, bench: BenchState) =>
    post("/api/mixes/{mix_id}/proposals", { path: { mix_id }, body: bench }),
  after: (mix_id: number, frame: number, silence_dbfs: number | null) =>
    get("/api/mixes/{mix_id}/after", { path: { mix_id }, query: { frame, silence_dbfs } }),
  sounding: (mix_id: number, silence_dbfs: number | null) =>
    get("/api/mixes/{mix_id}/sounding", { path: { mix_id }, query: { silence_dbfs } }),
  tempoHints: (mix_id: number, bpm: number | null = null) =>
    get("/api/mixes/{mix_id}/tempo-hints", { path: { mix_id }, query: { bpm } }),
  readMarkers: (mix_id: number, text: string, tempo: TempoMap | null) =>
    post("/api/mixes/{mix_id}/markers", { path: { mix_id }, body: { text, tempo } }),
  zeroCrossing: (mix_id: number, frame: number) =>
    get("/api/mixes/{mix_id}/zero-crossing", { path: { mix_id }, query: { frame: Math.round(frame) } }),
  spectrum: (mix_id: number, start: number, end: number) =>
    get("/api/mixes/{mix_id}/spectrum", { path: { mix_id }, query: { start_frame: start, end_frame: end } }),
  clipped: (mix_id: number) => get("/api/mixes/{mix_id}/clipped", { path: { mix_id } }),
  truePeak: (mix_id: number, start: number, end: number) =>
    get("/api/mixes/{mix_id}/true-peak", { path: { mix_id }, query: { start_frame: start, end_frame: end } }),
  truePeaks: (id: number) => floats(`/api/mixes/${id}/true-peaks`),
  ticket: (mix_id: number, bench: BenchState) =>
    post("/api/mixes/{mix_id}/ticket", { path: { mix_id }, body: bench }),
  loudnessMeter: (rateHz: number) => get("/api/loudness-meter", { query: { rate_hz: rateHz } }),
  explained: (mix_id: number, file_id: string, bench: BenchState) =>
    post("/api/mixes/{mix_id}/explained/{file_id}", { path: { mix_id, file_id }, body: bench }),
  measures: (mix_id: number, start: number, end: number) =>
    get("/api/mixes/{mix_id}/measures", { path: { mix_id }, query: { start_frame: start, end_frame: end } }),
  loudness: (id: number) => floats(`/api/mixes/${id}/loudness`),
  tryLevel: (mix_id: number, bench: BenchState, file: string) =>
    post("/api/mixes/{mix_id}/level", { path: { mix_id }, body: { bench, id: file } }),
  defaults: () => get("/api/defaults"),
  briefs: () => get("/api/briefs"),
  keepBrief: ({ own: _, ...body }: BriefRequest & { own?: boolean }) => put("/api/briefs", { body }),
  saveAsBrief: (mix_id: number, bench: BenchState, id: string, title: string) =>
    post("/api/mixes/{mix_id}/brief", { path: { mix_id }, body: { bench, id, title } }),
  copyBrief: (brief_id: string) => post("/api/briefs/{brief_id}/copy", { path: { brief_id } }),
  removeBrief: (brief_id: string) => remove("/api/briefs/{brief_id}", { path: { brief_id } }),
  dropOffs: () => get("/api/drop-offs"),
  keepDropOff: (number: number | null, drop_off: DropOff, secret: string | null) =>
    number === null
      ? post("/api/drop-offs", { body: { drop_off, secret } })
      : put("/api/drop-offs/{number}", { path: { number }, body: { drop_off, secret } }),
  removeDropOff: (number: number) => remove("/api/drop-offs/{number}", { path: { number } }),
  lookAtDropOff: (number: number) => post("/api/drop-offs/{number}/look", { path: { number } }),
  handoff: (mix_id: number) => get("/api/mixes/{mix_id}/handoff", { path: { mix_id } }),
  handOff: (mix_id: number, frame_rate: string, link: boolean, folder: string) =>
    post("/api/mixes/{mix_id}/handoff", { path: { mix_id }, body: { frame_rate, link, folder } }),
  cancelHandoff: (mix_id: number) => remove("/api/mixes/{mix_id}/handoff", { path: { mix_id } }),
  sidecars: (number: number) => get("/api/pressings/{number}/sidecars", { path: { number } }),
  writeSidecars: (number: number) => post("/api/pressings/{number}/sidecars", { path: { number } }),
  cancelSidecars: (number: number) => remove("/api/pressings/{number}/sidecars", { path: { number } }),
  outbox: () => get("/api/outbox"),
  parcelsOf: (number: number) => get("/api/pressings/{number}/parcels", { path: { number } }),
  sendFiles: (pressing: number, files: number[], drop_offs: string[], accepted_by: string, because: string) =>
    post("/api/outbox", {
      body: {
        pressing,
        files,
        drop_offs,
        accepted_by,
        because,
      },
    }),
  acceptParcel: (number: number, accepted_by: string, because: string) =>
    post("/api/outbox/{number}/accept", { path: { number }, body: { accepted_by, because } }),
  holdParcel: (number: number) => post("/api/outbox/{number}/hold", { path: { number } }),
  recallParcel: (number: number) => post("/api/outbox/{number}/recall", { path: { number } }),
  goOnWithParcel: (number: number) => post("/api/outbox/{number}/go-on", { path: { number } }),
  capabilities: () => get("/api/capabilities"),
  ladder: (mix_id: number, bench: BenchState, id: string) =>
    post("/api/mixes/{mix_id}/ladder", { path: { mix_id }, body: { bench, id } }),
  cancelLadder: (ladder_id: string) => remove("/api/ladders/{ladder_id}", { path: { ladder_id } }),
  trial: (mix_id: number, bench: BenchState, file: string) =>
    post("/api/mixes/{mix_id}/trial", { path: { mix_id }, body: { bench, id: file } }),
  tagFields: () => get("/api/tag-fields"),
  checkSheet: (values: TagValues) => post("/api/tag-sheets/check", { body: { values } }),
  keptSheets: () => get("/api/tag-sheets/kept"),
  readSheets: (text: string) => post("/api/tag-sheets/read", { body: { text } }),
  keepSheets: (written: MixSheet[]) => patch("/api/tag-sheets", { body: written }),
  orders: () => get("/api/orders"),
  order: (order_id: number) => get("/api/orders/{order_id}", { path: { order_id } }),
  entryPath: (order_id: number, entry: number) =>
    get("/api/orders/{order_id}/entries/{entry}/path", { path: { order_id, entry } }),
  makeOrder: (title: string, mixes: readonly number[]) =>
    post("/api/orders", { body: { title, ranges: mixes.map((mix_id) => ({ mix_id })) } }),
  proposeEntries: (mix_id: number, at: "markers" | "quiet") =>
    post("/api/orders/entries", { body: { mix_id, at } }),
  importOrder: (text: string) => post("/api/orders/import", { body: { text } }),
  setOrder: (order_id: number, order: RunningOrder) =>
    put("/api/orders/{order_id}", { path: { order_id }, body: order }),
  /** Sent as the page is left, as that of a bench. */
  leaveOrder: (order_id: number, order: RunningOrder) =>
    put("/api/orders/{order_id}", { path: { order_id }, body: order, keepalive: true }),
  copyOrder: (order_id: number) => post("/api/orders/{order_id}/copy", { path: { order_id } }),
  removeOrder: (order_id: number) => remove("/api/orders/{order_id}", { path: { order_id } }),
  pressOrder: (order_id: number, wish: { files: boolean; disc: boolean }) =>
    post("/api/orders/{order_id}/press", { path: { order_id }, body: wish }),
  burn: (number: number) => get("/api/pressings/{number}/disc/burn", { path: { number } }),
  beginBurn: (number: number, wish: BurnRequest) =>
    post("/api/pressings/{number}/disc/burn", { path: { number }, body: wish }),
  cancelBurn: (number: number) => remove("/api/pressings/{number}/disc/burn", { path: { number } }),
  /** The picture is the raw body. */
  keepCover: async (id: number, file: File): Promise<KeptCover> =>
    (
      await fetched(`/api/mixes/${id}/cover?name=${encodeURIComponent(file.name)}`, {
        method: "POST",
        body: file,
      })
    ).json(),
  labelFields: () => get("/api/label-fields"),
  labelPatterns: () => get("/api/label-patterns"),
  keepPattern: (pattern: LabelPattern) => put("/api/label-patterns", { body: pattern }),
  removePattern: (name: string) =>
    remove("/api/label-patterns", { query: { name: encodeURIComponent(name) } }),
  converter: (wish: ConverterRequest) => post("/api/converter", { body: wish }),
  press: (mix_id: number, bench: BenchState) => post("/api/pressings", { body: { mix_id, bench } }),
  pressingOf: (mix_id: number) => get("/api/mixes/{mix_id}/pressing", { path: { mix_id } }),
  pressing: (number: number) => get("/api/pressings/{number}", { path: { number } }),
  record: (find: string, verdict: Verdict | "", before: number | null) =>
    get("/api/pressings", { query: { find, verdict, before } }),
  cancel: (number: number) => post("/api/pressings/{number}/cancel", { path: { number } }),
  goOn: (number: number) => post("/api/pressings/{number}/go-on", { path: { number } }),
  pressAgain: (number: number) => post("/api/pressings/{number}/again", { path: { number } }),
  checkFiles: (number: number) => post("/api/pressings/{number}/check", { path: { number } }),
  beside: (number: number, other: number) =>
    get("/api/pressings/{number}/beside/{other}", { path: { number, other } }),
  cancelCheck: (number: number) => remove("/api/pressings/{number}/check", { path: { number } }),
  /** The comparison of a file with its mix. */
  against: (number: number, file_number: number) =>
    get("/api/pressings/{number}/files/{file_number}/against", { path: { number, file_number } }),
  compareWithMix: (number: number, file_number: number) =>
    post("/api/pressings/{number}/files/{file_number}/against", { path: { number, file_number } }),
  cancelMixComparison: (number: number, file_number: number) =>
    remove("/api/pressings/{number}/files/{file_number}/against", { path: { number, file_number } }),
  openDesk: (voices: VoiceRequest[]) => post("/api/desks", { body: { voices } }),
  desk: (desk_id: string) => get("/api/desks/{desk_id}", { path: { desk_id } }),
  passage: (desk_id: string, slot: number, start: number, end: number) =>
    get("/api/desks/{desk_id}/passage", { path: { desk_id }, query: { slot, start, end } }),
  /** Sent as the page is left. */
  closeDesk: (desk_id: string) => remove("/api/desks/{desk_id}", { path: { desk_id }, keepalive: true }),
  beginBlindTest: (desk_id: string, wish: BlindRequest) =>
    post("/api/desks/{desk_id}/blind-tests", { path: { desk_id }, body: wish }),
  answerBlindTest: (test_id: number, trial: number, answer: number) =>
    post("/api/blind-tests/{test_id}/trials/{trial}", { path: { test_id, trial }, body: { answer } }),
  leaveOffBlindTest: (test_id: number) => remove("/api/blind-tests/{test_id}", { path: { test_id } }),
  blindTestsOfMix: (mix_id: number) => get("/api/mixes/{mix_id}/blind-tests", { path: { mix_id } }),
  blindTests: (number: number) => get("/api/pressings/{number}/blind-tests", { path: { number } }),
  signedBy: (number: number) => get("/api/pressings/{number}/sheet/signed-by", { path: { number } }),
  pressView: () => get("/api/press"),
  setPress: (setting: { paused?: boolean; goes_on?: boolean; nightly?: boolean; compares_idle?: boolean }) =>
    patch("/api/press", { body: setting }),
  movePressing: (number: number, to: number) =>
    post("/api/pressings/{number}/move", { path: { number }, body: { to } }),
  stems: (mix_id: number) => get("/api/mixes/{mix_id}/stems", { path: { mix_id } }),
  fetchStems: (mix_id: number, path: string) =>
    post("/api/mixes/{mix_id}/stems/path", { path: { mix_id }, body: { path } }),
  putBeside: (mix_id: number, pressing: number, file: number) =>
    post("/api/mixes/{mix_id}/stems/file", { path: { mix_id }, body: { pressing, file } }),
  putOnShelf: (number: number, file_number: number) =>
    post("/api/pressings/{number}/files/{file_number}/shelf", { path: { number, file_number } }),
  rack: () => get("/api/rack"),
  passes: (mix_id: number) => get("/api/mixes/{mix_id}/passes", { path: { mix_id } }),
  makeLive: (mix_id: number, wish: LiveSource) =>
    post("/api/mixes/{mix_id}/live", { path: { mix_id }, body: wish }),
  beginPass: (mix_id: number, stem_id: number) =>
    post("/api/mixes/{mix_id}/stems/{stem_id}/pass", { path: { mix_id, stem_id } }),
  stopPass: (number: number) => remove("/api/passes/{number}", { path: { number } }),
  hearPass: (pass: number, signal: AbortSignal) => fetched(`/api/passes/${pass}/sound`, { signal }),
  checkStems: (mix_id: number) => post("/api/mixes/{mix_id}/stems/check", { path: { mix_id } }),
  cancelStemCheck: (mix_id: number) => remove("/api/mixes/{mix_id}/stems/check", { path: { mix_id } }),
  alignStems: (mix_id: number) => post("/api/mixes/{mix_id}/stems/align", { path: { mix_id } }),
  forgetRefusedStems: (mix_id: number) => remove("/api/mixes/{mix_id}/stems/refused", { path: { mix_id } }),
  changeStem: (mix_id: number, stem_id: number, change: StemChange) =>
    patch("/api/mixes/{mix_id}/stems/{stem_id}", { path: { mix_id, stem_id }, body: change }),
  removeStem: (mix_id: number, stem_id: number) =>
    remove("/api/mixes/{mix_id}/stems/{stem_id}", { path: { mix_id, stem_id } }),
  sets: () => get("/api/sets"),
  saveSet: (name: string, bench: BenchState) => put("/api/sets", { body: { name, bench } }),
  removeSet: (name: string) => remove("/api/sets", { query: { name: encodeURIComponent(name) } }),
  setDefault: (name: string) => put("/api/sets/default", { body: { name } }),
  setOnBench: (mix_id: number, name: string, bench: BenchState) =>
    post("/api/mixes/{mix_id}/set", { path: { mix_id }, body: { name, bench } }),
  setTickets: (wish: BatchRequest) => post("/api/pressings/batch/tickets", { body: wish }),
  planBatch: (wish: BatchRequest) => post("/api/pressings/batch/plan", { body: wish }),
  pressBatch: (wish: BatchRequest) => post("/api/pressings/batch", { body: wish }),
  tile: async (mixId: number, content: string, framesPerBin: number, index: number, signal: AbortSignal) =>
    (
      await fetched(`/api/mixes/${mixId}/tiles/${framesPerBin}/${index}?of=${encodeURIComponent(content)}`, {
        signal,
      })
    ).arrayBuffer(),
};

/** Sends a file as the raw body, so that the server can stream it to disk; reports bytes sent. */
export function upload(file: File, onProgress: (sent: number, total: number) => void): Promise<Arrival> {
  return sent("/api/arrivals/upload", file, onProgress) as Promise<Arrival>;
}

/** The same for a stem. */
export function uploadStem(
  mixId: number,
  file: File,
  onProgress: (sent: number, total: number) => void,
): Promise<unknown> {
  return sent(`/api/mixes/${mixId}/stems/upload`, file, onProgress);
}

function sent(
  address: string,
  file: File,
  onProgress: (sent: number, total: number) => void,
): Promise<unknown> {
  return new Promise((resolve, reject) => {
    const call = new XMLHttpRequest();
    call.open("POST", `${address}?name=${encodeURIComponent(file.name)}`);
    call.responseType = "json";
    call.upload.onprogress = (event) => onProgress(event.loaded, event.total);
    // The browser reports only that it was not sent: this distinguishes a missing file from a
    // missing server.
    call.onerror = () =>
      (file.size ? file.slice(0, 1) : file).arrayBuffer().then(
        () => reject(new ApiError("server.unreachable", UNREACHABLE)),
        () => reject(new ApiError("upload.unreadable", UNREADABLE)),
      );
    call.onload = () => {
      const body = call.response as { message?: string; code?: string } | null;
      if (call.status < 300) resolve(call.response);
      else reject(new ApiError(body?.code ?? `http.${call.status}`, body?.message ?? "Upload rejected."));
    };
    call.send(file);
  });
}
