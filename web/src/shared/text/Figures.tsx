export type FigureLine = readonly [name: string, value: string];

/** Names and values with their units, one a line. */
export function Figures({ lines }: { lines: readonly FigureLine[] }) {
  return (
    <dl className="panel-figures">
      {lines.map(([name, value]) => (
        <div key={name}>
          <dt>{name}</dt>
          <dd>{value}</dd>
        </div>
      ))}
    </dl>
  );
}
