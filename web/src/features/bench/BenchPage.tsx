import { useQuery } from "@tanstack/react-query";
import { Button, Modal } from "antd";
import { useEffect, useMemo, useReducer, useState } from "react";
import { Link, useParams } from "react-router";
import { api, type BenchState, listenUrl, type Mix, type Proposal, type TicketLine } from "../../api/client";
import type { Mode } from "../../app/theme";
import { rememberMix } from "../../shared/lastMix";
import { player, usePlayer } from "../../shared/player";
import { useRemembered } from "../../shared/remembered";
import { type Snap, snapped, type Unit } from "../../shared/timeUnits";
import { AddDelivery } from "./AddDelivery";
import { BenchHead } from "./BenchHead";
import { BenchParts } from "./BenchParts";
import { useChosen } from "./chosen";
import { KeySheet, useKeys } from "./keys";
import { MarkerList } from "./MarkerList";
import {
  changed,
  nudge,
  type Range,
  withBeside,
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
import { useBars, useKeptBench, useLevelTrial, usePressing, useTicket, useTrials } from "./queries";
import { RangeLine } from "./RangeLine";
import { RangeTabs } from "./RangeTabs";
import { StationPanel } from "./StationPanel";
import { TempoEditor } from "./TempoEditor";
import { TicketTree } from "./TicketTree";
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
  const [keysShown, setKeysShown] = useState(false);
  const [adding, setAdding] = useState(false);
  const [wantedUnit, setUnit] = useRemembered<Unit>("unit", "time");
  const [wantedSnap, setSnap] = useRemembered<Snap>("snap", "off");
  const [decibels, setDecibels] = useRemembered("decibels", false);
  const playing = usePlayer();
  const ticket = useTicket(mix, bench);
  const rows = ticket.data?.rows ?? [];
  const chosen = useChosen(bench, rows);
  const { range } = chosen;
  const [cursor, setCursor] = useState(range.start_frame);
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
    change({
      type: "edit",
      edit: (now) => {
        const same = now.ranges.find((one) => one.id === range.id);
        return same ? withRange(now, withEdge(same, edge, at, mix.frames)) : now;
      },
    });
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
    move: (id: string, step: -1 | 1) => set(withMoved(bench, id, step)),
    remove: (id: string) => set(withoutLine(bench, id)),
  };
  const addRange = (start: number, end: number) => {
    const made = withNewRange(bench, start, end);
    set(made.bench);
    chosen.chooseRange(made.id, made.bench, "range");
  };
  const addHere = () => {
    const last = bench.ranges.reduce((end, one) => Math.max(end, one.end_frame), 0);
    const begin = cursor > range.start_frame && cursor < mix.frames ? cursor : last < mix.frames ? last : 0;
    addRange(begin, mix.frames);
  };
  const take = (proposal: Proposal, beside: boolean) => {
    const next = beside ? withBeside(bench, proposal) : withRanges(bench, proposal.ranges);
    set(next);
    const first = next.ranges[beside ? bench.ranges.length : 0];
    if (first) chosen.chooseRange(first.id, next, "range");
  };
  const addMarker = () => set(withNewMarker(bench, snapped(player.position() ?? cursor, snapTo)));

  const listen = (what: string, start: number, end: number) => {
    if (end > start) player.play(what, listenUrl(mix.id, range, start, end), start, end, mix.rate_hz);
  };
  const row = rows[chosen.row];
  const rowOfRange = rows.find((one) => one.range_id === range.id);
  const heardEnd = Math.max(range.end_frame, rowOfRange?.heard_end_frame ?? range.end_frame);
  const levels = useLevelTrial(mix, bench);
  const weighed = chosen.kind === "codec" || chosen.kind === "name";
  const trials = useTrials(mix, bench, rows, (weighed && row?.line_id) || null);
  const [wantedField, setWantedField] = useState<string | null>(null);
  const goToField = (at: number, field: string) => {
    chosen.chooseStation(at, "tags");
    setWantedField(field);
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
    if (next) chosen.chooseRange(next.id);
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

  return (
    <div className="bench">
      <BenchHead
        mix={mix}
        playRange={playRange}
        hearStart={hearStart}
        hearEnd={hearEnd}
        showKeys={() => setKeysShown(true)}
      >
        <TempoEditor
          mix={mix}
          bench={bench}
          timing={timing}
          setTempo={(tempo) => set(withTempo(bench, tempo))}
        />
      </BenchHead>
      <BenchParts
        wave={
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
            reduction={row && levels.of(row.line_id).result}
            choose={(id) => chosen.chooseRange(id)}
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
                choose={(id) => chosen.chooseRange(id)}
                rename={(one, name) => set(withRange(bench, { ...one, name }))}
                remove={(id) => set(withoutRange(bench, id))}
                add={addHere}
                take={take}
              />
            }
          >
            <RangeLine
              mix={mix}
              range={range}
              rows={rows}
              timing={timing}
              sounding={sounding}
              setRange={setRange}
              setEdge={setEdge}
            />
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
        }
        ticket={
          <section className="sheet" aria-label="Ticket">
            {ticket.data && (
              <TicketTree
                mix={mix}
                rows={rows}
                refused={ticket.data.refused}
                off={bench.ticket.filter((line) => !line.on)}
                chosen={chosen}
                choose={(next) => {
                  setWantedField(null);
                  chosen.chooseStation(next.row, next.kind);
                }}
                acts={acts}
              />
            )}
            {ticket.error && (
              <p className="field-error" role="alert">
                {ticket.error.message}
              </p>
            )}
          </section>
        }
        station={
          <section className="sheet panel" aria-label="Station" key={`${row?.line_id} ${chosen.kind}`}>
            {row && (
              <StationPanel
                row={row}
                kind={chosen.kind}
                mode={mode}
                mix={mix}
                range={range}
                setRange={setRange}
                bench={bench}
                setLine={setLine}
                setFinish={(finish) => set({ ...bench, finish })}
                setBench={set}
                codecTrial={trials.get(row.line_id)}
                wantedField={wantedField}
                goToField={(field) => goToField(chosen.row, field)}
                trial={levels.of(row.line_id)}
                tryLevel={() => levels.measure(row.line_id)}
              />
            )}
          </section>
        }
      />
      <AddDelivery
        bench={bench}
        rows={rows}
        chosenId={range.id}
        open={adding}
        close={() => setAdding(false)}
        add={(briefs, ranges) => {
          const next = withLines(bench, briefs, ranges);
          set(next);
          chosen.chooseLine(next.ticket[bench.ticket.length]?.id);
        }}
      />
      <PressBar
        ticket={ticket.data}
        pressing={pressing}
        bench={bench}
        mix={mix}
        notKept={notKept}
        onFrame={setCursor}
        onField={goToField}
        setBench={set}
      />
      <Modal title="Keys" open={keysShown} footer={null} onCancel={() => setKeysShown(false)}>
        <KeySheet />
      </Modal>
    </div>
  );
}
