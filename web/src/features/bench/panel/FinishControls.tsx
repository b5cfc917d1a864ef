import { InputNumber, Switch } from "antd";
import { useId } from "react";
import type { FinishChain, Mix } from "../../../api/client";
import { level } from "../../../shared/text/format";
import { useSession, useSetOut } from "../session";

/** The finishing chain of the mix: saved with it, taken or left by every delivery. */
export function FinishControls({ mix }: { mix: Mix }) {
  const session = useSession();
  const bench = useSetOut();
  const { finish } = bench;
  const ids = [useId(), useId(), useId(), useId()] as const;
  const offset = Math.max(...mix.measures.dc_offset.map(Math.abs));
  const set = (part: Partial<FinishChain>) => session.set({ ...bench, finish: { ...finish, ...part } });
  return (
    <section className="delivery-controls" aria-label="Finishing chain">
      <h3>Finishing chain</h3>
      <div className="delivery-field">
        <label htmlFor={ids[0]}>Remove DC offset</label>
        <Switch
          id={ids[0]}
          size="small"
          checked={finish.remove_dc}
          onChange={(remove_dc) => set({ remove_dc })}
        />
        <small>{offset > 0 ? level(20 * Math.log10(offset)) : "none"}</small>
      </div>
      <div className="delivery-field">
        <label htmlFor={ids[1]}>High-pass</label>
        <InputNumber
          id={ids[1]}
          size="small"
          min={0}
          max={1000}
          value={finish.high_pass_hz}
          suffix="Hz"
          onChange={(high_pass_hz) => set({ high_pass_hz: high_pass_hz ?? 0 })}
        />
        <small>0 = off</small>
      </div>
      <div className="delivery-field">
        <label htmlFor={ids[2]}>Gain</label>
        <InputNumber
          id={ids[2]}
          size="small"
          min={-60}
          max={60}
          step={0.1}
          value={finish.gain_db}
          suffix="dB"
          onChange={(gain_db) => set({ gain_db: gain_db ?? 0 })}
        />
      </div>
      <div className="delivery-field">
        <label htmlFor={ids[3]}>Limiter at</label>
        <InputNumber
          id={ids[3]}
          size="small"
          min={-20}
          max={0}
          step={0.1}
          value={finish.ceiling_dbtp}
          placeholder="off"
          suffix="dBTP"
          onChange={(ceiling_dbtp) => set({ ceiling_dbtp })}
        />
        <small>empty = off</small>
      </div>
    </section>
  );
}
