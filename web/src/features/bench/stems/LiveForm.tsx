import { Checkbox, Input, InputNumber, Select } from "antd";
import type { LiveSource, Mix, Part, UnitShown } from "../../../api/client";
import { THE_MIX } from "../model";
import { useStems } from "./queries";

/** A MIDI file as base64. */
const inBase64 = (data: ArrayBuffer) =>
  btoa(Array.from(new Uint8Array(data), (one) => String.fromCharCode(one)).join(""));

interface LiveFormProps {
  mix: Mix;
  units: readonly UnitShown[];
  unit: UnitShown;
  choose: (address: string) => void;
  wish: Omit<LiveSource, "address">;
  set: (part: Partial<LiveSource>) => void;
}

/** Unit, sent signal, and settings of the pass. */
export function LiveForm({ mix, units: there, unit, choose: setAddress, wish, set }: LiveFormProps) {
  const plays = unit.unit === "instrument";
  const stems = (useStems(mix.id).data?.stems ?? []).filter((one) => !one.live_s);
  const choices: { value: string; label: string; part: Part }[] = [
    { value: "mix", label: "Mix", part: THE_MIX },
    ...stems.map((one) => ({
      value: `s${one.id}`,
      label: one.name,
      part: { stems: [one.name], but: false },
    })),
  ];
  const chosen = choices.find((one) => JSON.stringify(one.part) === JSON.stringify(wish.part));
  return (
    <div className="live-form">
      <label htmlFor="live-unit">Unit</label>
      <Select
        id="live-unit"
        value={unit.address}
        onChange={setAddress}
        options={there.map((one) => ({
          value: one.address,
          label: `${one.name}, ${one.unit}${one.busy ? ", in use" : ""}`,
        }))}
      />
      {plays ? (
        <>
          <label htmlFor="live-score">MIDI file</label>
          <span>
            <input
              id="live-score"
              type="file"
              accept=".mid,.midi,audio/midi"
              onChange={async (event) => {
                const file = event.target.files?.[0];
                if (!file) return;
                set({
                  score: inBase64(await file.arrayBuffer()),
                  name: wish.name || file.name.replace(/\.midi?$/i, ""),
                });
              }}
            />
            {!wish.score && <small className="quiet"> Standard MIDI file.</small>}
          </span>
        </>
      ) : (
        <>
          <label htmlFor="live-part">Send signal</label>
          <Select
            id="live-part"
            value={chosen?.value ?? "mix"}
            onChange={(value) => set({ part: choices.find((one) => one.value === value)?.part ?? THE_MIX })}
            options={choices.map(({ value, label }) => ({ value, label }))}
          />
          <label htmlFor="live-gain">Send gain</label>
          <InputNumber
            id="live-gain"
            value={wish.send_gain_db}
            min={-60}
            max={24}
            step={0.5}
            suffix="dB"
            onChange={(value) => set({ send_gain_db: value ?? 0 })}
          />
        </>
      )}
      <label htmlFor="live-name">Name</label>
      <Input
        id="live-name"
        value={wish.name}
        placeholder={plays ? "kit" : `${unit.name} capture`}
        maxLength={80}
        onChange={(event) => set({ name: event.target.value })}
      />
      <label htmlFor="live-drop">On a dropout</label>
      <Select
        id="live-drop"
        value={wish.on_dropout}
        onChange={(on_dropout) => set({ on_dropout })}
        options={[
          { value: "go-on", label: "continue and list it" },
          { value: "end", label: "stop the pass" },
        ]}
      />
      <span />
      <span className="live-checks">
        {!plays && (
          <Checkbox checked={wish.finish} onChange={({ target }) => set({ finish: target.checked })}>
            Include the finishing chain
          </Checkbox>
        )}
        <Checkbox
          checked={wish.correct_drift}
          onChange={({ target }) => set({ correct_drift: target.checked })}
        >
          Correct clock drift
        </Checkbox>
        <Checkbox
          checked={wish.stop_on_over}
          onChange={({ target }) => set({ stop_on_over: target.checked })}
        >
          Stop if the return clips
        </Checkbox>
      </span>
    </div>
  );
}
