import type { EntryRow, OrderShown } from "../../../api/client";

const MINUTE = 4500;

/** The whole programme drawn to scale, first to last, as it would lie on a disc of 80 minutes. */
export function Band({
  shown,
  chosen,
  choose,
}: {
  shown: OrderShown;
  chosen: number;
  choose: (at: number) => void;
}) {
  const [short, long] = [shown.capacities[74] ?? 0, shown.capacities[80] ?? 0];
  const whole = Math.max(long, shown.lead_out_frame);
  const minutes = Math.ceil(whole / MINUTE);
  const every = minutes > 200 ? 60 : minutes > 100 ? 20 : 10;
  const marks = Array.from({ length: Math.floor(minutes / every) + 1 }, (_, at) => at * every);
  const place = (frame: number) => `${(100 * frame) / whole}%`;
  return (
    <section className="sheet band" aria-label="Timeline">
      <h2>Timeline on {whole === long ? "an 80-minute disc" : `${minutes} minutes`}</h2>
      <div className="band-line">
        {shown.entries.map((one, at) => (
          <button
            type="button"
            key={shown.order.entries[at]?.id ?? at}
            className={`band-entry${at === chosen ? " band-chosen" : ""}`}
            style={{ left: place(one.start_frame), width: place(one.end_frame - one.start_frame) }}
            onClick={() => choose(at)}
            aria-label={`${one.track || "Hidden"} ${one.title}`}
            title={one.title}
            tabIndex={-1}
          >
            <Wave row={one} />
            <span className="band-name">
              <b>{one.track || "·"}</b> {one.title}
            </span>
          </button>
        ))}
        {whole === long && (
          <span className="band-end" style={{ left: place(short), width: place(long - short) }}>
            74-minute discs end
          </span>
        )}
      </div>
      <div className="band-scale" aria-hidden="true">
        {marks.map((minute) => (
          <span key={minute} style={{ left: place(minute * MINUTE) }}>
            {minute} min
          </span>
        ))}
      </div>
    </section>
  );
}

function Wave({ row }: { row: EntryRow }) {
  const { wave } = row;
  const points = wave.map((peak, at) => `${at},${(50 - 46 * peak).toFixed(1)}`);
  const back = wave.map((peak, at) => `${at},${(50 + 46 * peak).toFixed(1)}`).reverse();
  return (
    <svg
      viewBox={`0 0 ${Math.max(1, wave.length - 1)} 100`}
      preserveAspectRatio="none"
      className="band-wave"
      aria-hidden="true"
    >
      <polygon points={[...points, ...back].join(" ")} fill="currentColor" />
    </svg>
  );
}
