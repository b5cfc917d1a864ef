import { Button, Popover } from "antd";
import { useState } from "react";
import type { Mix } from "../../../api/client";
import { useCommands } from "../../../shared/commands/commands";
import { useSounding } from "../queries";
import { useRange, useSession, useSetOut } from "../session";
import { SilenceLevel } from "./SilenceLevel";

/** What can be done with the chosen range beside moving its edges. */
export function RangeMenu({ mix, rename }: { mix: Mix; rename: () => void }) {
  const session = useSession();
  const bench = useSetOut();
  const range = useRange();
  const [open, setOpen] = useState(false);
  const found = useSounding(mix, bench.silence_dbfs).data;
  const sounding = {
    start_frame: found?.start_frame ?? mix.measures.head_silence_frames,
    end_frame: found?.end_frame ?? mix.frames - mix.measures.tail_silence_frames,
  };
  const whole = { start_frame: 0, end_frame: mix.frames };
  const at = (one: typeof whole) =>
    one.start_frame === range.start_frame && one.end_frame === range.end_frame;
  const acts = [
    { name: "Rename range", can: true, run: rename },
    {
      name: "Trim silence",
      can: sounding.end_frame > sounding.start_frame && !at(sounding),
      run: () => session.setRange({ ...session.range(), ...sounding }),
    },
    {
      name: "Whole mix",
      can: !at(whole),
      run: () => session.setRange({ ...session.range(), ...whole }),
    },
    { name: "Delete range", can: bench.ranges.length > 1, run: () => session.removeRange(range.id) },
  ].filter((one) => one.can);
  useCommands(acts);
  return (
    <Popover
      trigger="click"
      placement="bottomLeft"
      open={open}
      onOpenChange={setOpen}
      content={
        <div className="range-menu">
          {acts.map(({ name, run }) => (
            <Button
              key={name}
              size="small"
              onClick={() => {
                setOpen(false);
                run();
              }}
            >
              {name}
            </Button>
          ))}
          {found && <SilenceLevel found={found} />}
        </div>
      }
    >
      <button
        type="button"
        className="tab-side"
        aria-label="Range actions"
        title="Rename, trim silence, delete"
      >
        ▾
      </button>
    </Popover>
  );
}
