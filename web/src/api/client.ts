import type {
  AfterView,
  Arrival,
  Bar,
  BatchLine,
  BatchWish,
  BenchState,
  BlindAsk,
  BlindView,
  Brief,
  BurnView,
  BurnWish,
  Capability,
  Comparison,
  Converter,
  ConverterWish,
  Defaults,
  DeskView,
  DropOff,
  DropOffBook,
  DropOffShown,
  Explained,
  FileChange,
  HandoffShown,
  HandoffState,
  Holding,
  KeptCover,
  KeptSheet,
  LabelField,
  LabelPattern,
  LadderView,
  LevelTrial,
  LiveSource,
  LoudnessMeter,
  Marker,
  Mix,
  MixSheet,
  MixUsed,
  MixVersion,
  OrderEntry,
  OrderShown,
  OrderSummary,
  Parcel,
  PassageView,
  PassShown,
  PathCell,
  Pressing,
  PressView,
  Proposal,
  RangeMeasures,
  ReadSheet,
  RecordPage,
  RunningOrder,
  ShelfView,
  SoundingView,
  StemChange,
  StemsShown,
  TagField,
  TagValues,
  TempoHint,
  TempoMap,
  Ticket,
  Trial,
  TruePeak,
  UnitShown,
  VersionDifferences,
  VoiceAsk,
} from "./types";

export type * from "./types";
export * from "./urls";

const UNREADABLE = "This file changed or moved. Choose it again.";

/** What the server said, or that it could not be reached; `message` is a sentence for a person. */
export class ApiError extends Error {
  readonly code: string;

  constructor(code: string, message: string) {
    super(message);
    this.code = code;
  }
}

export const UNREACHABLE =
  "No answer from the server. Running pressings continue there. Start it again if it was stopped.";

async function answerOf(response: Response): Promise<Response> {
  if (response.ok) return response;
  const body: unknown = await response.json().catch(() => null);
  if (body && typeof body === "object" && "message" in body && "code" in body) {
    throw new ApiError(String(body.code), String(body.message));
  }
  throw new ApiError(`http.${response.status}`, `The server rejected the request (${response.status}).`);
}

async function request(path: string, init?: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, init);
  } catch {
    throw new ApiError("server.unreachable", UNREACHABLE);
  }
  return answerOf(response);
}

async function json<T>(path: string, init?: RequestInit): Promise<T> {
  return (await request(path, init)).json() as Promise<T>;
}

function send<T>(method: string, path: string, body: unknown, init?: RequestInit): Promise<T> {
  return json<T>(path, {
    ...init,
    method,
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(body),
  });
}

export const api = {
  shelf: () => json<ShelfView>("/shelf"),
  mix: (id: number) => json<Mix>(`/mixes/${id}`),
  removeMix: (id: number) => request(`/mixes/${id}`, { method: "DELETE" }),
  fetchPath: (path: string) => send<Arrival[]>("POST", "/arrivals/path", { path }),
  changes: () => json<FileChange[]>("/changes"),
  mixVersions: (id: number) => json<MixVersion[]>(`/mixes/${id}/versions`),
  differs: (id: number, other: number) => json<VersionDifferences>(`/mixes/${id}/beside/${other}`),
  lookAtChange: (id: number) => json<boolean>(`/mixes/${id}/change`, { method: "POST" }),
  takeChange: (id: number) => json<MixUsed>(`/mixes/${id}/change/take`, { method: "POST" }),
  leaveChange: (id: number) => request(`/mixes/${id}/change`, { method: "DELETE" }),
  useVersion: (id: number, version: number) =>
    json<MixUsed>(`/mixes/${id}/versions/${version}/use`, { method: "POST" }),
  takeApart: (id: number, version: number) =>
    json<MixUsed>(`/mixes/${id}/versions/${version}/apart`, { method: "POST" }),
  pileUp: (mix_ids: readonly number[]) => send<MixUsed>("POST", "/piles", { mix_ids }),
  standAlone: (id: number) => request(`/mixes/${id}/likely`, { method: "DELETE" }),
  dismiss: (id: string) => request(`/arrivals/${id}`, { method: "DELETE" }),
  setBench: (id: number, content: string, bench: BenchState) =>
    send<Mix>("PUT", `/mixes/${id}/bench?content=${content.split("-")[0]}`, bench),
  /** Sent when the page is closed: it arrives although the page no longer waits for the answer. */
  leaveBench: (id: number, content: string, bench: BenchState) =>
    send<Mix>("PUT", `/mixes/${id}/bench?content=${content.split("-")[0]}`, bench, { keepalive: true }),
  setDownmix: (id: number, downmix: string) => send<Arrival>("PUT", `/mixes/${id}/downmix`, { downmix }),
  arrival: (id: string) => json<Arrival>(`/arrivals/${id}`),
  readTime: (id: number, text: string, tempo: TempoMap | null) =>
    send<{ frame: number }>("POST", `/mixes/${id}/time`, { text, tempo }),
  bars: (id: number, tempo: TempoMap) => send<Bar[]>("POST", `/mixes/${id}/bars`, tempo),
  proposals: (id: number, bench: BenchState) => send<Proposal[]>("POST", `/mixes/${id}/proposals`, bench),
  after: (id: number, frame: number, silence: number | null) =>
    json<AfterView>(`/mixes/${id}/after?frame=${frame}${silence === null ? "" : `&silence_dbfs=${silence}`}`),
  sounding: (id: number, silence: number | null) =>
    json<SoundingView>(`/mixes/${id}/sounding${silence === null ? "" : `?silence_dbfs=${silence}`}`),
  tempoHints: (id: number, bpm?: number) =>
    json<TempoHint[]>(`/mixes/${id}/tempo-hints${bpm === undefined ? "" : `?bpm=${bpm}`}`),
  readMarkers: (id: number, text: string, tempo: TempoMap | null) =>
    send<Marker[]>("POST", `/mixes/${id}/markers`, { text, tempo }),
  zeroCrossing: (id: number, frame: number) =>
    json<{ frame: number }>(`/mixes/${id}/zero-crossing?frame=${Math.round(frame)}`),
  spectrum: (id: number, start: number, end: number) =>
    json<[number, number][]>(`/mixes/${id}/spectrum?start_frame=${start}&end_frame=${end}`),
  clipped: (id: number) => json<[number, number, number][]>(`/mixes/${id}/clipped`),
  truePeak: (id: number, start: number, end: number) =>
    json<TruePeak>(`/mixes/${id}/true-peak?start_frame=${start}&end_frame=${end}`),
  truePeaks: async (id: number) =>
    new Float32Array(await (await request(`/mixes/${id}/true-peaks`)).arrayBuffer()),
  ticket: (id: number, bench: BenchState) => send<Ticket>("POST", `/mixes/${id}/ticket`, bench),
  loudnessMeter: (rateHz: number) => json<LoudnessMeter>(`/loudness-meter?rate_hz=${rateHz}`),
  explained: (id: number, file: string, bench: BenchState) =>
    send<Explained[]>("POST", `/mixes/${id}/explained/${file}`, bench),
  measures: (id: number, start: number, end: number) =>
    json<RangeMeasures>(`/mixes/${id}/measures?start_frame=${start}&end_frame=${end}`),
  loudness: async (id: number) =>
    new Float32Array(await (await request(`/mixes/${id}/loudness`)).arrayBuffer()),
  tryLevel: (id: number, bench: BenchState, file: string) =>
    send<LevelTrial>("POST", `/mixes/${id}/level`, { bench, id: file }),
  defaults: () => json<Defaults>("/defaults"),
  briefs: () => json<Brief[]>("/briefs"),
  keepBrief: ({ own: _, ...body }: Partial<Brief>) => send<Brief>("PUT", "/briefs", body),
  copyBrief: (id: string) => send<Brief>("POST", `/briefs/${id}/copy`, {}),
  removeBrief: (id: string) => request(`/briefs/${id}`, { method: "DELETE" }),
  dropOffs: () => json<DropOffBook>("/drop-offs"),
  keepDropOff: (id: number | null, drop_off: DropOff, secret: string | null) =>
    send<DropOffShown>(id === null ? "POST" : "PUT", id === null ? "/drop-offs" : `/drop-offs/${id}`, {
      drop_off,
      secret,
    }),
  removeDropOff: (id: number) => request(`/drop-offs/${id}`, { method: "DELETE" }),
  lookAtDropOff: (id: number) => send<DropOffShown>("POST", `/drop-offs/${id}/look`, {}),
  handoff: (mix: number) => json<HandoffShown>(`/mixes/${mix}/handoff`),
  handOff: (mix: number, frame_rate: string, link: boolean, folder: string) =>
    send<HandoffState>("POST", `/mixes/${mix}/handoff`, { frame_rate, link, folder }),
  cancelHandoff: (mix: number) => request(`/mixes/${mix}/handoff`, { method: "DELETE" }),
  sidecars: (pressing: number) => json<HandoffState | null>(`/pressings/${pressing}/sidecars`),
  writeSidecars: (pressing: number) => send<HandoffState>("POST", `/pressings/${pressing}/sidecars`, {}),
  cancelSidecars: (pressing: number) => request(`/pressings/${pressing}/sidecars`, { method: "DELETE" }),
  outbox: () => json<Parcel[]>("/outbox"),
  parcelsOf: (pressing: number) => json<Parcel[]>(`/pressings/${pressing}/parcels`),
  sendFiles: (pressing: number, drop_offs: string[], accepted_by: string, because: string) =>
    send<{ parcel: number; new: boolean }[]>("POST", "/outbox", {
      pressing,
      files: [],
      drop_offs,
      accepted_by,
      because,
    }),
  acceptParcel: (id: number, accepted_by: string, because: string) =>
    send<Parcel>("POST", `/outbox/${id}/accept`, { accepted_by, because }),
  holdParcel: (id: number) => send<Parcel>("POST", `/outbox/${id}/hold`, {}),
  recallParcel: (id: number) => send<Parcel>("POST", `/outbox/${id}/recall`, {}),
  goOnWithParcel: (id: number) => send<Parcel>("POST", `/outbox/${id}/go-on`, {}),
  capabilities: () => json<Capability[]>("/capabilities"),
  ladder: (mixId: number, bench: BenchState, id: string) =>
    send<LadderView>("POST", `/mixes/${mixId}/ladder`, { bench, id }),
  cancelLadder: (id: string) => request(`/ladders/${id}`, { method: "DELETE" }),
  trial: (id: number, bench: BenchState, file: string) =>
    send<Trial>("POST", `/mixes/${id}/trial`, { bench, id: file }),
  tagFields: () => json<TagField[]>("/tag-fields"),
  checkSheet: (values: TagValues) =>
    send<{ field: string; sentence: string }[]>("POST", "/tag-sheets/check", { values }),
  keptSheets: () => json<KeptSheet[]>("/tag-sheets/kept"),
  readSheets: (text: string) => send<ReadSheet[]>("POST", "/tag-sheets/read", { text }),
  keepSheets: (written: readonly MixSheet[]) => send<Mix[]>("PATCH", "/tag-sheets", written),
  orders: () => json<OrderSummary[]>("/orders"),
  order: (id: number) => json<OrderShown>(`/orders/${id}`),
  entryPath: (id: number, entry: number) => json<PathCell[]>(`/orders/${id}/entries/${entry}/path`),
  makeOrder: (title: string, mixes: readonly number[]) =>
    send<OrderShown>("POST", "/orders", { title, ranges: mixes.map((mix_id) => ({ mix_id })) }),
  cutOrder: (mix_id: number, at: "markers" | "quiet") =>
    send<OrderShown>("POST", "/orders/cut", { mix_id, at }),
  proposeEntries: (mix_id: number, at: "markers" | "quiet") =>
    send<OrderEntry[]>("POST", "/orders/entries", { mix_id, at }),
  importOrder: (text: string) => send<OrderShown>("POST", "/orders/import", { text }),
  setOrder: (id: number, order: RunningOrder) => send<OrderShown>("PUT", `/orders/${id}`, order),
  /** Sent as the page is left, as that of a bench. */
  leaveOrder: (id: number, order: RunningOrder) =>
    send<OrderShown>("PUT", `/orders/${id}`, order, { keepalive: true }),
  copyOrder: (id: number) => send<OrderShown>("POST", `/orders/${id}/copy`, {}),
  removeOrder: (id: number) => request(`/orders/${id}`, { method: "DELETE" }),
  pressOrder: (id: number, wish: { files: boolean; disc: boolean }) =>
    send<Pressing>("POST", `/orders/${id}/press`, wish),
  burn: (pressing: number) => json<BurnView | null>(`/pressings/${pressing}/disc/burn`),
  beginBurn: (pressing: number, wish: BurnWish) =>
    send<BurnView>("POST", `/pressings/${pressing}/disc/burn`, wish),
  cancelBurn: (pressing: number) => request(`/pressings/${pressing}/disc/burn`, { method: "DELETE" }),
  keepCover: (id: number, file: File) =>
    json<KeptCover>(`/mixes/${id}/cover?name=${encodeURIComponent(file.name)}`, {
      method: "POST",
      body: file,
    }),
  labelFields: () => json<LabelField[]>("/label-fields"),
  labelPatterns: () => json<LabelPattern[]>("/label-patterns"),
  keepPattern: (pattern: LabelPattern) => send<LabelPattern[]>("PUT", "/label-patterns", pattern),
  removePattern: (name: string) =>
    json<LabelPattern[]>(`/label-patterns?name=${encodeURIComponent(name)}`, { method: "DELETE" }),
  converter: (wish: ConverterWish) => send<Converter>("POST", "/converter", wish),
  press: (mix_id: number, bench: BenchState) => send<Pressing>("POST", "/pressings", { mix_id, bench }),
  pressingOf: (mixId: number) => json<Pressing | null>(`/mixes/${mixId}/pressing`),
  pressing: (id: number) => json<Pressing>(`/pressings/${id}`),
  record: (find: string, verdict: string, before: number | null) => {
    const query = new URLSearchParams({ find, verdict });
    if (before !== null) query.set("before", String(before));
    return json<RecordPage>(`/pressings?${query}`);
  },
  cancel: (id: number) => request(`/pressings/${id}/cancel`, { method: "POST" }),
  goOn: (id: number) => request(`/pressings/${id}/go-on`, { method: "POST" }),
  pressAgain: (id: number) => json<Pressing>(`/pressings/${id}/again`, { method: "POST" }),
  checkFiles: (id: number) => request(`/pressings/${id}/check`, { method: "POST" }),
  beside: (id: number, other: number) => json<Comparison>(`/pressings/${id}/beside/${other}`),
  /** The comparison of a file with its mix; it starts only on request. */
  against: (id: number, file: number, begin: boolean) =>
    json<Holding>(`/pressings/${id}/files/${file}/against?begin=${begin}`),
  openDesk: (voices: readonly VoiceAsk[]) => send<DeskView>("POST", "/desks", { voices }),
  desk: (id: string) => json<DeskView>(`/desks/${id}`),
  passage: (id: string, slot: number, start: number, end: number) =>
    json<PassageView>(`/desks/${id}/passage?slot=${slot}&start=${start}&end=${end}`),
  /** Sent as the page is left. */
  closeDesk: (id: string) => request(`/desks/${id}`, { method: "DELETE", keepalive: true }),
  beginBlindTest: (desk: string, wish: BlindAsk) =>
    send<BlindView>("POST", `/desks/${desk}/blind-tests`, wish),
  answerBlindTest: (id: number, trial: number, answer: number) =>
    send<BlindView>("POST", `/blind-tests/${id}/trials/${trial}`, { answer }),
  leaveOffBlindTest: (id: number) => json<BlindView>(`/blind-tests/${id}`, { method: "DELETE" }),
  blindTestsOfMix: (mix: number) => json<BlindView[]>(`/mixes/${mix}/blind-tests`),
  blindTests: (pressing: number) => json<BlindView[]>(`/pressings/${pressing}/blind-tests`),
  signedBy: (pressing: number) => json<string>(`/pressings/${pressing}/sheet/signed-by`),
  pressView: () => json<PressView>("/press"),
  setPress: (setting: { paused?: boolean; goes_on?: boolean; nightly?: boolean }) =>
    send<PressView>("PATCH", "/press", setting),
  movePressing: (id: number, to: number) => send<PressView>("POST", `/pressings/${id}/move`, { to }),
  stems: (mix: number) => json<StemsShown>(`/mixes/${mix}/stems`),
  fetchStems: (mix: number, path: string) =>
    send<{ count: number }>("POST", `/mixes/${mix}/stems/path`, { path }),
  putBeside: (mix: number, pressing: number, file: number) =>
    send<{ count: number }>("POST", `/mixes/${mix}/stems/file`, { pressing, file }),
  putOnShelf: (pressing: number, file: number) =>
    json<Arrival>(`/pressings/${pressing}/files/${file}/shelf`, { method: "POST" }),
  rack: () => json<UnitShown[]>("/rack"),
  passes: (mix: number) => json<PassShown[]>(`/mixes/${mix}/passes`),
  makeLive: (mix: number, wish: LiveSource) => send<{ stem: number }>("POST", `/mixes/${mix}/live`, wish),
  beginPass: (mix: number, stem: number) =>
    json<PassShown[]>(`/mixes/${mix}/stems/${stem}/pass`, { method: "POST" }),
  stopPass: (pass: number) => request(`/passes/${pass}`, { method: "DELETE" }),
  hearPass: (pass: number, signal: AbortSignal) => request(`/passes/${pass}/sound`, { signal }),
  checkStems: (mix: number) => json<StemsShown>(`/mixes/${mix}/stems/check`, { method: "POST" }),
  cancelStemCheck: (mix: number) => request(`/mixes/${mix}/stems/check`, { method: "DELETE" }),
  alignStems: (mix: number) => json<{ count: number }>(`/mixes/${mix}/stems/align`, { method: "POST" }),
  forgetRefusedStems: (mix: number) => request(`/mixes/${mix}/stems/refused`, { method: "DELETE" }),
  changeStem: (mix: number, stem: number, change: StemChange) =>
    send<StemsShown>("PATCH", `/mixes/${mix}/stems/${stem}`, change),
  removeStem: (mix: number, stem: number) => request(`/mixes/${mix}/stems/${stem}`, { method: "DELETE" }),
  planBatch: (wish: BatchWish) => send<BatchLine[]>("POST", "/pressings/batch/plan", wish),
  pressBatch: (wish: BatchWish) => send<BatchLine[]>("POST", "/pressings/batch", wish),
  tile: async (mixId: number, content: string, framesPerBin: number, index: number, signal: AbortSignal) => {
    const path = `/mixes/${mixId}/tiles/${framesPerBin}/${index}?of=${encodeURIComponent(content)}`;
    return (await request(path, { signal })).arrayBuffer();
  },
};

/** A range with its edges, or the part of it between two frames of the mix, as it will be pressed. */
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
