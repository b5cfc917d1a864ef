import { Button, InputNumber, Popover, Select } from "antd";
import type { BenchState, Mix, TempoChange, TempoMap } from "../../../api/client";
import { TempoAsk } from "../../../shared/time/TempoAsk";
import { TimeField, type Timing } from "../../../shared/time/TimeField";

const UNITS = [1, 2, 4, 8, 16, 32] as const;

interface TempoEditorProps {
  mix: Mix;
  bench: BenchState;
  timing: Timing;
  setTempo: (tempo: TempoMap | null) => void;
}

export const tempoWords = (tempo: TempoMap | null): string => {
  const first = tempo?.changes[0];
  if (!tempo || !first) return "No tempo";
  const more = tempo.changes.length > 1 ? `, ${tempo.changes.length - 1} changes` : "";
  return `${first.tempo_bpm} bpm, ${first.beats}/${first.unit}${more}`;
};

export function TempoEditor(props: TempoEditorProps) {
  return (
    <Popover trigger="click" placement="bottomLeft" content={<Editor {...props} />} destroyOnHidden>
      <Button size="small" aria-label={`Tempo: ${tempoWords(props.bench.tempo)}`}>
        {tempoWords(props.bench.tempo)}
      </Button>
    </Popover>
  );
}

function Editor({ mix, bench, timing, setTempo }: TempoEditorProps) {
  const { tempo } = bench;
  if (!tempo) {
    return (
      <div className="tempo-editor">
        <p>Set a tempo to work in bars and make sample-accurate loops.</p>
        <TempoAsk mixId={mix.id} choose={setTempo} />
      </div>
    );
  }
  const change = (index: number, part: Partial<TempoChange>) =>
    setTempo({
      ...tempo,
      changes: tempo.changes.map((one, at) => (at === index ? { ...one, ...part } : one)),
    });
  const last = tempo.changes.at(-1);
  return (
    <div className="tempo-editor">
      <TimeField
        mix={mix}
        timing={{ ...timing, unit: timing.unit === "bars" ? "time" : timing.unit }}
        label="Bar 1 at"
        frame={tempo.first_bar_frame}
        onFrame={(first_bar_frame) => setTempo({ ...tempo, first_bar_frame })}
      />
      <table>
        <thead>
          <tr>
            <th scope="col">From bar</th>
            <th scope="col">Tempo</th>
            <th scope="col">Metre</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {tempo.changes.map((one, index) => (
            <tr key={`${index}/${tempo.changes.length}`}>
              <td>
                {index === 0 ? (
                  "1"
                ) : (
                  <InputNumber
                    size="small"
                    aria-label={`Bar of change ${index}`}
                    min={(tempo.changes[index - 1]?.bar ?? 1) + 1}
                    max={(tempo.changes[index + 1]?.bar ?? 100_000) - 1}
                    precision={0}
                    value={one.bar}
                    onChange={(bar) => bar && change(index, { bar })}
                  />
                )}
              </td>
              <td>
                <InputNumber
                  size="small"
                  aria-label={`Tempo from bar ${one.bar}`}
                  min={10}
                  max={1000}
                  value={one.tempo_bpm}
                  suffix="bpm"
                  onChange={(tempo_bpm) => tempo_bpm && change(index, { tempo_bpm })}
                />
              </td>
              <td className="metre">
                <InputNumber
                  size="small"
                  aria-label={`Beats a bar from bar ${one.bar}`}
                  min={1}
                  max={99}
                  precision={0}
                  value={one.beats}
                  onChange={(beats) => beats && change(index, { beats })}
                />
                /
                <Select
                  size="small"
                  aria-label={`Note value from bar ${one.bar}`}
                  value={one.unit}
                  options={UNITS.map((unit) => ({ value: unit, label: String(unit) }))}
                  onChange={(unit) => change(index, { unit })}
                />
              </td>
              <td>
                {index > 0 && (
                  <Button
                    size="small"
                    type="text"
                    aria-label={`Delete the change at bar ${one.bar}`}
                    onClick={() =>
                      setTempo({ ...tempo, changes: tempo.changes.filter((_, at) => at !== index) })
                    }
                  >
                    ×
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="marker-acts">
        <Button
          size="small"
          onClick={() =>
            last && setTempo({ ...tempo, changes: [...tempo.changes, { ...last, bar: last.bar + 8 }] })
          }
        >
          Add change
        </Button>
        <Button size="small" type="text" onClick={() => setTempo(null)}>
          No tempo
        </Button>
      </div>
    </div>
  );
}
