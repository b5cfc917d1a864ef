import { Select } from "antd";
import { useDeferredValue, useState } from "react";
import { when } from "../../shared/text/pressings";
import { useBeside, useRecord } from "./queries";

/** Chooses the pressing to compare with: only the record's pressings are available. */
export function BesideChoice({ of, onChoose }: { of: number; onChoose: (number: number) => void }) {
  const [find, setFind] = useState("");
  const record = useRecord(useDeferredValue(find.trim()), "");
  const rows = record.data?.pages.flatMap((page) => page.rows) ?? [];
  return (
    <Select
      autoFocus
      defaultOpen
      showSearch={{ filterOption: false, onSearch: setFind }}
      aria-label="Compare with pressing"
      placeholder="Search pressings"
      options={rows
        .filter((row) => row.id !== of && row.verdict !== null)
        .map((row) => ({ value: row.id, label: `${row.id} · ${row.mix_title} · ${when(row.made_at)}` }))}
      onChange={onChoose}
    />
  );
}

/** Two pressings compared: bytes, audio, figures, libraries. */
export function Beside({ id, other }: { id: number; other: number }) {
  const found = useBeside(id, other);
  if (found.error) return <p role="alert">{found.error.message}</p>;
  if (!found.data) return null;
  return (
    <section className="beside" aria-label={`Comparison with pressing ${other}`}>
      <p>
        <b>Compared with no. {other}:</b> {found.data.sentence}
      </p>
      <ul>
        {found.data.pairs
          .filter((pair) => pair.sameness !== "bytes")
          .map((pair) => (
            <li key={pair.names.join("/")}>
              <b>{pair.names[1] ?? pair.names[0]}</b> {pair.sentence}
              {pair.figures.length > 0 && (
                <table>
                  <tbody>
                    {pair.figures.map(([what, then, now]) => (
                      <tr key={what}>
                        <th scope="row">{what}</th>
                        <td>{then}</td>
                        <td>→ {now}</td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              )}
            </li>
          ))}
      </ul>
    </section>
  );
}
