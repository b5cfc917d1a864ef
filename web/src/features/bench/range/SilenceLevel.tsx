import { Button, InputNumber, Popover } from "antd";
import { useId } from "react";
import type { SoundingView } from "../../../api/client";
import { level } from "../../../shared/text/format";
import { useSession, useSetOut } from "../session";

/** What counts as silence of this mix: by its noise floor, or as it is set. */
export function SilenceLevel({ found }: { found: SoundingView }) {
  return (
    <Popover trigger="click" placement="bottomLeft" content={<Setting found={found} />} destroyOnHidden>
      <Button size="small" type="text" className="silence-level" title={found.sentence}>
        Silence below {level(found.silence_dbfs, "dBFS")}
      </Button>
    </Popover>
  );
}

function Setting({ found }: { found: SoundingView }) {
  const session = useSession();
  const { silence_dbfs: set } = useSetOut();
  const id = useId();
  const change = (silence_dbfs: number | null) => session.set({ ...session.bench(), silence_dbfs });
  return (
    <div className="tempo-editor">
      <p>
        {found.noise_dbfs === null
          ? "No noise floor in this mix."
          : `Noise floor ${level(found.noise_dbfs, "dBFS")}. Silence is below 10 dB above it.`}
      </p>
      <div className="marker-acts">
        <label htmlFor={id}>Silence below</label>
        <InputNumber
          id={id}
          size="small"
          min={-120}
          max={-20}
          precision={1}
          value={found.silence_dbfs}
          suffix="dBFS"
          onChange={(next) => next !== null && change(next)}
        />
        <Button size="small" disabled={set === null} onClick={() => change(null)}>
          Use automatic
        </Button>
      </div>
    </div>
  );
}
