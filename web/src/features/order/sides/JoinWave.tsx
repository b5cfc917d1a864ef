import { useJoinWave } from "../hearing";

/** The audio around a join as pressed: the end of one track, and the start of the next. */
export function JoinWave({
  order,
  join,
  stamp,
  names,
}: {
  order: number;
  join: number;
  stamp: unknown;
  names: readonly [string, string];
}) {
  const wave = useJoinWave(order, join, stamp);
  const bars = wave ?? [];
  return (
    <figure className="join-wave" aria-label={`Waveform around the join of ${names[0]} and ${names[1]}`}>
      <svg viewBox="0 0 220 60" preserveAspectRatio="none" aria-hidden="true">
        {bars.map((peak, at) => (
          <rect
            key={at}
            x={at}
            width="0.8"
            y={30 - 28 * peak}
            height={Math.max(0.4, 56 * peak)}
            className={at < bars.length / 2 ? "join-before" : "join-after"}
          />
        ))}
        <line x1="110" x2="110" y1="0" y2="60" className="join-line" />
      </svg>
      <figcaption>
        <span>{names[0]}</span>
        <b>{names[1]}</b>
      </figcaption>
    </figure>
  );
}
