import { useQuery } from "@tanstack/react-query";
import { Button, Modal } from "antd";
import { useEffect, useReducer, useState } from "react";
import { Link, useParams } from "react-router";
import { api, listenUrl, type Mix } from "../../api/client";
import type { Mode } from "../../app/theme";
import { channels, clock, level, rate } from "../../shared/format";
import { rememberMix } from "../../shared/lastMix";
import { player, usePlayer } from "../../shared/player";
import { KeySheet, useKeys } from "./keys";
import { changed, nudge, type Range, stretchOf, withEdge } from "./model";
import { PressBar } from "./PressBar";
import { useKeptRange, usePressing, useTicket } from "./queries";
import { StationPanel } from "./StationPanel";
import { TicketTree } from "./TicketTree";
import { TimeField } from "./TimeField";
import { WaveformPanel } from "./WaveformPanel";

const EDGE_SECONDS = 4;

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
  const [history, change] = useReducer(changed, {
    past: [],
    present: { start: mix.start_frame, end: mix.end_frame, edges: mix.edges },
    future: [],
  });
  const range = history.present;
  const [cursor, setCursor] = useState(range.start);
  const [stationIndex, setStationIndex] = useState(3);
  const [keysShown, setKeysShown] = useState(false);
  const playing = usePlayer();
  const ticket = useTicket(mix.id, range);
  const pressing = usePressing(mix.id);
  const notKept = useKeptRange(mix, range);
  useEffect(() => {
    rememberMix(mix.id);
    return () => player.stop();
  }, [mix.id]);

  const setRange = (next: Range) => change({ type: "set", range: next });
  const setEdge = (edge: "start" | "end", frame: number) =>
    setRange(withEdge(range, edge, frame, mix.frames));
  const listen = (what: string, start: number, end: number) => {
    if (end > start)
      player.play(what, listenUrl(mix.id, stretchOf(range), start, end), start, end, mix.rate_hz);
  };
  const heardEnd = Math.max(range.end, ticket.data?.heard_end_frame ?? range.end);
  const span = EDGE_SECONDS * mix.rate_hz;
  const hearStart = () => listen("start", range.start, Math.min(heardEnd, range.start + span));
  const hearEnd = () => listen("end", Math.max(range.start, heardEnd - span), heardEnd);
  const playRange = () => {
    if (playing.status === "playing") player.stop();
    else listen("range", cursor >= range.start && cursor < heardEnd ? cursor : range.start, heardEnd);
  };
  const sounding = {
    start: mix.measures.head_silence_frames,
    end: mix.frames - mix.measures.tail_silence_frames,
  };

  useKeys({
    " ": playRange,
    s: hearStart,
    e: hearEnd,
    "[": () => setEdge("start", player.position() ?? cursor),
    "]": () => setEdge("end", player.position() ?? cursor),
    "mod+z": () => change({ type: "undo" }),
    "mod+shift+z": () => change({ type: "redo" }),
    "mod+enter": () => pressing.press(range),
    "?": () => setKeysShown(true),
    ArrowLeft: (event) => setCursor(Math.max(0, cursor - nudge(mix.rate_hz, event.shiftKey, event.altKey))),
    ArrowRight: (event) =>
      setCursor(Math.min(mix.frames, cursor + nudge(mix.rate_hz, event.shiftKey, event.altKey))),
    Home: () => setCursor(range.start),
    End: () => setCursor(range.end),
  });

  const row = ticket.data?.rows[0];
  const over = mix.measures.samples_over_full_scale > 0;
  return (
    <div className="bench">
      <header className="bench-head">
        <h1>{mix.title}</h1>
        <p>
          <b>{clock(mix.frames, mix.rate_hz, 1)}</b> · <b>{rate(mix.rate_hz)}</b> · <b>{mix.depth_label}</b> ·{" "}
          {channels(mix.channels)} · {level(mix.measures.integrated_lufs, "LUFS")} · peak{" "}
          <b className={over ? "over" : ""}>{level(mix.measures.sample_peak_dbfs)}</b>
        </p>
        <fieldset className="listening" aria-label="Listening">
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
        range={range}
        cursor={cursor}
        setRange={setRange}
        setEdge={setEdge}
        setCursor={setCursor}
      >
        <TimeField mix={mix} label="Start" frame={range.start} onFrame={(frame) => setEdge("start", frame)} />
        <TimeField mix={mix} label="End" frame={range.end} onFrame={(frame) => setEdge("end", frame)} />
        <span className="range-words">
          {range.start === 0 && range.end === mix.frames ? "Whole mix" : "Range"},{" "}
          <b>{clock(range.end - range.start, mix.rate_hz)}</b>
        </span>
        {sounding.end > sounding.start && (sounding.start !== range.start || sounding.end !== range.end) && (
          <Button size="small" onClick={() => setRange({ ...range, ...sounding })}>
            Only what sounds
          </Button>
        )}
        {(range.start !== 0 || range.end !== mix.frames) && (
          <Button size="small" onClick={() => setRange({ ...range, start: 0, end: mix.frames })}>
            Whole mix
          </Button>
        )}
        <span className="history">
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
          {row && <TicketTree mix={mix} row={row} chosen={stationIndex} choose={setStationIndex} />}
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
              index={stationIndex}
              mode={mode}
              mix={mix}
              range={range}
              setRange={setRange}
            />
          )}
        </section>
      </div>
      <PressBar
        ticket={ticket.data}
        pressing={pressing}
        range={range}
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
