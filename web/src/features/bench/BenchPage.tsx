import { useMutation, useQuery } from "@tanstack/react-query";
import { Button, Modal } from "antd";
import { useEffect, useMemo, useReducer, useState } from "react";
import { Link, useParams } from "react-router";
import { api, type BenchState, listenUrl, type Mix, type Proposal, type TicketLine } from "../../api/client";
import type { Mode } from "../../app/theme";
import { channels, clock, level, rate } from "../../shared/format";
import { rememberMix } from "../../shared/lastMix";
import { player, usePlayer } from "../../shared/player";
import { useRemembered } from "../../shared/remembered";
import { type Snap, snapped, type Unit } from "../../shared/timeUnits";
import { AddDelivery } from "./AddDelivery";
import { KeySheet, useKeys } from "./keys";
import { MarkerList } from "./MarkerList";
import { Meter } from "./Meter";
import {
  changed,
  nudge,
  type Range,
  withCopy,
  withEdge,
  withLine,
  withLines,
  withMarkers,
  withMoved,
  withNewMarker,
  withNewRange,
  withoutLine,
  withoutRange,
  withRange,
  withRanges,
  withTempo,
} from "./model";
import { PressBar } from "./PressBar";
import { useBars, useKeptBench, usePressing, useTicket } from "./queries";
import { RangeTabs, wordsOf } from "./RangeTabs";
import { StationPanel } from "./StationPanel";
import { TempoEditor } from "./TempoEditor";
import { type Chosen, TicketTree } from "./TicketTree";
import { TimeField } from "./TimeField";
import { WaveformPanel } from "./WaveformPanel";
import { WaveTools } from "./WaveTools";

const EDGE_SECONDS = 4;
const NO_BARS: never[] = [];

export function BenchPage({ mode }: { mode: Mode }) {
  const id = Number(useParams().mixId);
  const mix = useQuery({
    queryKey: ["mix", id],
    queryFn: () => api.mix(id),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (mix.error) {
    return (
      <div className="empty">
        <p className="empty-title">No mix on the bench</p>
        <p>{mix.error.message}</p>
        <Link to="/shelf">Go to the shelf</Link>
      </div>
    );
  }
  return mix.data ? <Bench key={id} mix={mix.data} mode={mode} /> : null;
}

function Bench({ mix, mode }: { mix: Mix; mode: Mode }) {
  const [history, change] = useReducer(changed, { past: [], present: mix.bench, future: [] });
  const bench = history.present;
  const [chosenId, setChosenId] = useState(bench.ranges[0]?.id ?? "");
  const range = bench.ranges.find((one) => one.id === chosenId) ?? (bench.ranges[0] as Range);
  const [cursor, setCursor] = useState(range.start_frame);
  const [station, setStation] = useState<Chosen>({ row: 0, kind: "depth" });
  const [keysShown, setKeysShown] = useState(false);
  const [adding, setAdding] = useState(false);
  const [wantedUnit, setUnit] = useRemembered<Unit>("unit", "time");
  const [wantedSnap, setSnap] = useRemembered<Snap>("snap", "off");
  const [decibels, setDecibels] = useRemembered("decibels", false);
  const playing = usePlayer();
  const ticket = useTicket(mix, bench);
  const rows = ticket.data?.rows ?? [];
  const pressing = usePressing(mix.id);
  const notKept = useKeptBench(mix, bench);
  const bars = useBars(mix.id, bench.tempo).data ?? NO_BARS;
  useEffect(() => {
    rememberMix(mix.id);
    return () => player.stop();
  }, [mix.id]);

  const sounding = {
    start_frame: mix.measures.head_silence_frames,
    end_frame: mix.frames - mix.measures.tail_silence_frames,
  };
  const unit = wantedUnit === "bars" && !bench.tempo ? "time" : wantedUnit;
  const snap = (wantedSnap === "bars" || wantedSnap === "beats") && !bench.tempo ? "off" : wantedSnap;
  const timing = useMemo(() => ({ unit, bars, tempo: bench.tempo }), [unit, bars, bench.tempo]);
  const snapTo = {
    snap,
    bars,
    markers: bench.markers.map((marker) => marker.frame),
    sound: [sounding.start_frame, sounding.end_frame],
    rateHz: mix.rate_hz,
  };

  const set = (next: BenchState) => change({ type: "set", bench: next });
  const setRange = (next: Range) => set(withRange(bench, next));
  const setEdge = async (edge: "start" | "end", frame: number, free = false) => {
    const at = free
      ? frame
      : snap === "zero"
        ? (await api.zeroCrossing(mix.id, frame).catch(() => ({ frame }))).frame
        : snapped(frame, snapTo);
    setRange(withEdge(range, edge, at, mix.frames));
  };
  const choose = (id: string) => {
    setChosenId(id);
    const row = rows.findIndex((one) => one.range_id === id);
    if (row >= 0) setStation((last) => ({ ...last, row }));
  };
  const chooseStation = (next: Chosen) => {
    setStation(next);
    const id = rows[next.row]?.range_id;
    if (id) setChosenId(id);
  };
  const setLine = (line: TicketLine) => set(withLine(bench, line));
  const acts = {
    add: () => setAdding(true),
    switchOn: (id: string, on: boolean) => {
      const line = bench.ticket.find((one) => one.id === id);
      if (line) setLine({ ...line, on });
    },
    copy: (id: string) => {
      const line = bench.ticket.find((one) => one.id === id);
      if (line) set(withCopy(bench, line));
    },
    move: (id: string, step: -1 | 1) => {
      set(withMoved(bench, id, step));
      setStation((last) => ({ ...last, row: Math.max(0, Math.min(rows.length - 1, last.row + step)) }));
    },
    remove: (id: string) => set(withoutLine(bench, id)),
  };
  const addRange = (start: number, end: number) => {
    const made = withNewRange(bench, start, end);
    set(made.bench);
    setChosenId(made.id);
    setStation({ row: rows.length, kind: "range" });
  };
  const addHere = () => {
    const last = bench.ranges.reduce((end, one) => Math.max(end, one.end_frame), 0);
    const begin = cursor > range.start_frame && cursor < mix.frames ? cursor : last < mix.frames ? last : 0;
    addRange(begin, mix.frames);
  };
  const take = (proposal: Proposal, beside: boolean) => {
    if (beside) {
      let next = bench;
      for (const one of proposal.ranges) {
        const made = withNewRange(next, one.start_frame, one.end_frame);
        const kept = made.bench.ranges.at(-1) as Range;
        const name = one.name || proposal.label;
        next = withRange(made.bench, { ...kept, name, edges: one.edges });
      }
      set(next);
      setChosenId(next.ranges[bench.ranges.length]?.id ?? chosenId);
      setStation({ row: rows.length, kind: "range" });
    } else {
      set(withRanges(bench, proposal.ranges));
      setChosenId(proposal.ranges[0]?.id ?? chosenId);
      setStation({ row: 0, kind: "range" });
    }
  };
  const addMarker = () => set(withNewMarker(bench, snapped(player.position() ?? cursor, snapTo)));

  const listen = (what: string, start: number, end: number) => {
    if (end > start) player.play(what, listenUrl(mix.id, range, start, end), start, end, mix.rate_hz);
  };
  const row = rows[station.row] ?? rows[0];
  const rowOfRange = rows.find((one) => one.range_id === range.id);
  const heardEnd = Math.max(range.end_frame, rowOfRange?.heard_end_frame ?? range.end_frame);
  const levelTrial = useMutation({ mutationFn: (line: string) => api.tryLevel(mix.id, bench, line) });
  // What was measured counts until the bench changes.
  const [tried, setTried] = useState<BenchState | null>(null);
  const trial = {
    result: tried === bench && levelTrial.variables === row?.line_id ? levelTrial.data : undefined,
    running: levelTrial.isPending,
    error: levelTrial.error?.message,
  };
  const span = EDGE_SECONDS * mix.rate_hz;
  const hearStart = () => listen("start", range.start_frame, Math.min(heardEnd, range.start_frame + span));
  const hearEnd = () => listen("end", Math.max(range.start_frame, heardEnd - span), heardEnd);
  const playRange = () => {
    if (playing.status === "playing") player.stop();
    else {
      const inside = cursor >= range.start_frame && cursor < heardEnd;
      listen("range", inside ? cursor : range.start_frame, heardEnd);
    }
  };
  const nextRange = (step: number) => {
    const at = bench.ranges.findIndex((one) => one.id === range.id);
    const next = bench.ranges[(at + step + bench.ranges.length) % bench.ranges.length];
    if (next) choose(next.id);
  };

  useKeys({
    " ": playRange,
    s: hearStart,
    e: hearEnd,
    m: addMarker,
    n: addHere,
    d: () => setAdding(true),
    PageUp: () => nextRange(-1),
    PageDown: () => nextRange(1),
    "[": () => setEdge("start", player.position() ?? cursor),
    "]": () => setEdge("end", player.position() ?? cursor),
    "mod+z": () => change({ type: "undo" }),
    "mod+shift+z": () => change({ type: "redo" }),
    "mod+enter": () => pressing.press(bench),
    "?": () => setKeysShown(true),
    ArrowLeft: (event) => setCursor(Math.max(0, cursor - nudge(mix.rate_hz, event.shiftKey, event.altKey))),
    ArrowRight: (event) =>
      setCursor(Math.min(mix.frames, cursor + nudge(mix.rate_hz, event.shiftKey, event.altKey))),
    Home: () => setCursor(range.start_frame),
    End: () => setCursor(range.end_frame),
  });

  const over = mix.measures.samples_over_full_scale > 0;
  const whole = range.start_frame === 0 && range.end_frame === mix.frames;
  const onlySound = sounding.start_frame === range.start_frame && sounding.end_frame === range.end_frame;
  return (
    <div className="bench">
      <header className="bench-head">
        <h1>{mix.title}</h1>
        <p>
          <b>{clock(mix.frames, mix.rate_hz, 1)}</b> · <b>{rate(mix.rate_hz)}</b> · <b>{mix.depth_label}</b> ·{" "}
          {channels(mix.channels)} · {level(mix.measures.integrated_lufs, "LUFS")} · peak{" "}
          <b className={over ? "over" : ""}>{level(mix.measures.sample_peak_dbfs)}</b>
        </p>
        <TempoEditor
          mix={mix}
          bench={bench}
          timing={timing}
          setTempo={(tempo) => set(withTempo(bench, tempo))}
        />
        <fieldset className="listening" aria-label="Listening">
          <Meter />
          <Button onClick={playRange} aria-keyshortcuts="Space">
            {playing.status === "playing" ? "Stop" : "Play range"}
          </Button>
          <Button onClick={hearStart} aria-keyshortcuts="s">
            Hear start
          </Button>
          <Button onClick={hearEnd} aria-keyshortcuts="e">
            Hear end
          </Button>
          <Button type="text" onClick={() => setKeysShown(true)} aria-keyshortcuts="?">
            Keys
          </Button>
        </fieldset>
      </header>
      {playing.status === "failed" && (
        <p className="field-error" role="alert">
          {playing.message}
        </p>
      )}
      <WaveformPanel
        heardEnd={heardEnd}
        mix={mix}
        mode={mode}
        bench={bench}
        range={range}
        timing={timing}
        snapTo={snapTo}
        decibels={decibels}
        cursor={cursor}
        reduction={trial.result}
        choose={choose}
        setRange={setRange}
        setEdge={setEdge}
        addRange={addRange}
        setCursor={setCursor}
        moveMarker={(index, frame) =>
          set(
            withMarkers(
              bench,
              bench.markers.map((one, at) => (at === index ? { ...one, frame } : one)),
            ),
          )
        }
        removeMarker={(index) =>
          set(
            withMarkers(
              bench,
              bench.markers.filter((_, at) => at !== index),
            ),
          )
        }
        tabs={
          <RangeTabs
            mix={mix}
            bench={bench}
            rows={rows}
            chosenId={range.id}
            choose={choose}
            rename={(one, name) => set(withRange(bench, { ...one, name }))}
            remove={(id) => set(withoutRange(bench, id))}
            add={addHere}
            take={take}
          />
        }
      >
        <TimeField
          mix={mix}
          timing={timing}
          label="Start"
          frame={range.start_frame}
          onFrame={(frame) => setEdge("start", frame, true)}
        />
        <TimeField
          mix={mix}
          timing={timing}
          label="End"
          frame={range.end_frame}
          onFrame={(frame) => setEdge("end", frame, true)}
        />
        <span className="range-words">
          {whole ? "Whole mix" : wordsOf(range, rows)},{" "}
          <b>{clock(range.end_frame - range.start_frame, mix.rate_hz)}</b>
        </span>
        {sounding.end_frame > sounding.start_frame && !onlySound && (
          <Button size="small" onClick={() => setRange({ ...range, ...sounding })}>
            Only what sounds
          </Button>
        )}
        {!whole && (
          <Button size="small" onClick={() => setRange({ ...range, start_frame: 0, end_frame: mix.frames })}>
            Whole mix
          </Button>
        )}
        <span className="wave-tools">
          <MarkerList
            mix={mix}
            bench={bench}
            timing={timing}
            setMarkers={(markers) => set(withMarkers(bench, markers))}
            show={setCursor}
            add={addMarker}
          />
          <WaveTools
            unit={unit}
            setUnit={setUnit}
            snap={snap}
            setSnap={setSnap}
            decibels={decibels}
            setDecibels={setDecibels}
            hasTempo={bench.tempo !== null}
            hasMarkers={bench.markers.length > 0}
          />
          <Button
            size="small"
            type="text"
            disabled={!history.past.length}
            onClick={() => change({ type: "undo" })}
          >
            Undo
          </Button>
          <Button
            size="small"
            type="text"
            disabled={!history.future.length}
            onClick={() => change({ type: "redo" })}
          >
            Redo
          </Button>
        </span>
      </WaveformPanel>
      <div className="ticket-room">
        <section className="sheet" aria-label="Ticket">
          {ticket.data && (
            <TicketTree
              mix={mix}
              rows={rows}
              refused={ticket.data.refused}
              off={bench.ticket.filter((line) => !line.on)}
              chosen={station}
              choose={chooseStation}
              acts={acts}
            />
          )}
          {ticket.error && (
            <p className="field-error" role="alert">
              {ticket.error.message}
            </p>
          )}
        </section>
        <section className="sheet panel" aria-label="Station">
          {row && (
            <StationPanel
              row={row}
              kind={station.kind}
              mode={mode}
              mix={mix}
              range={range}
              setRange={setRange}
              bench={bench}
              setLine={setLine}
              setFinish={(finish) => set({ ...bench, finish })}
              trial={trial}
              tryLevel={() => {
                setTried(bench);
                levelTrial.mutate(row.line_id);
              }}
            />
          )}
        </section>
      </div>
      <AddDelivery
        bench={bench}
        rows={rows}
        chosenId={range.id}
        open={adding}
        close={() => setAdding(false)}
        add={(briefs, ranges) => {
          set(withLines(bench, briefs, ranges));
          setStation({ row: rows.length, kind: "name" });
        }}
      />
      <PressBar
        ticket={ticket.data}
        pressing={pressing}
        bench={bench}
        mix={mix}
        notKept={notKept}
        onFrame={setCursor}
        setRange={setRange}
      />
      <Modal title="Keys" open={keysShown} footer={null} onCancel={() => setKeysShown(false)}>
        <KeySheet />
      </Modal>
    </div>
  );
}
