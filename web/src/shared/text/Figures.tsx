import type { ReactNode } from "react";

export type FigureLine = readonly [name: string, value: ReactNode, className?: string];

/** Names and values with their units, one a line; with ``wide`` in columns. */
export function Figures({ lines, wide = false }: { lines: readonly FigureLine[]; wide?: boolean }) {
  return (
    <dl className={wide ? "figure-list figure-columns" : "figure-list"}>
      {lines.map(([name, value, className]) => (
        <div key={name} className={className}>
          <dt>{name}</dt>
          <dd>{value}</dd>
        </div>
      ))}
    </dl>
  );
}
