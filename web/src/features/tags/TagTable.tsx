import { Checkbox } from "antd";
import { Link } from "react-router";
import type { KeptSheet, TagField } from "../../api/client";
import { cellId, GridCell } from "./GridCell";
import { filled, pasted, type Sheets, textOf } from "./model";
import type { Problem } from "./useProblems";

interface TagTableProps {
  mixes: readonly KeptSheet[];
  columns: readonly TagField[];
  sheets: Sheets;
  problems: ReadonlyMap<string, Problem>;
  chosen: readonly number[];
  choose: (mixes: readonly number[]) => void;
  set: (sheets: Sheets) => void;
}

/** One line a mix, one column a field. */
export function TagTable({ mixes, columns, sheets, problems, chosen, choose, set }: TagTableProps) {
  const toggle = (id: number) =>
    choose(chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id]);
  return (
    <section className="sheet tags-room" aria-label="Tag sheets of all mixes">
      <table>
        <thead>
          <tr>
            <th>
              <Checkbox
                aria-label="Select all mixes"
                checked={chosen.length === mixes.length}
                indeterminate={chosen.length > 0 && chosen.length < mixes.length}
                onChange={() => choose(chosen.length === mixes.length ? [] : mixes.map((mix) => mix.id))}
              />
            </th>
            <th scope="col">Mix</th>
            {columns.map((field) => (
              <th key={field.name} scope="col">
                {field.title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {mixes.map((mix, at) => (
            <tr key={mix.id}>
              <td>
                <Checkbox
                  aria-label={`Select ${mix.title}`}
                  checked={chosen.includes(mix.id)}
                  onChange={() => toggle(mix.id)}
                />
              </td>
              <th scope="row">
                <Link to={`/bench/${mix.id}`}>{mix.title}</Link>
              </th>
              {columns.map((field) => (
                <td key={field.name}>
                  <GridCell
                    id={cellId(mix.id, field.name)}
                    label={`${field.title} of ${mix.title}`}
                    field={field}
                    text={textOf(sheets.get(mix.id), field.name)}
                    problem={problems.get(cellId(mix.id, field.name))?.sentence}
                    setText={(text) => set(filled(sheets, [mix.id], field.name, text))}
                    below={cellId(mixes[at + 1]?.id ?? mix.id, field.name)}
                    paste={(block) =>
                      set(
                        pasted(
                          sheets,
                          mixes.map((one) => one.id),
                          columns.map((one) => one.name),
                          { id: mix.id, field: field.name },
                          block,
                        ),
                      )
                    }
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
