import type { ReactNode } from "react";
import type { Capability, Changes, Mix, Row, Station, TicketLine } from "../../../../api/client";
import { useFormats } from "../../../../shared/text/formats";
import type { Mode } from "../../../../shared/theme";
import { settledOf } from "../../model";
import type { CodecTrial, LevelTrials } from "../../queries";
import { useSession } from "../../session";
import { Field } from "../Field";

/** What the panel of a station is about: a file of the ticket, and the line that asks for it. */
export interface PanelProps {
  readonly mix: Mix;
  readonly mode: Mode;
  readonly row: Row;
  readonly line: TicketLine;
  /** The deliveries that a choice applies to. */
  readonly into: readonly string[];
  readonly codecTrial: CodecTrial;
  readonly levels: LevelTrials;
}

/** What can be chosen at a station. */
export type FieldsProps = Pick<PanelProps, "row" | "line" | "into">;

/** A station as the page shows it: all that a kind of station adds is a file in this folder and a line in `index`. */
export interface StationUi {
  readonly title: string;
  /** Its line on the path: its value, and a note. */
  readonly said: (
    row: Row,
    station: Station | undefined,
    can: Capability | undefined,
  ) => readonly [string, string];
  /** What it does where the signal passes it unchanged, and the path has no such station. */
  readonly idle?: string;
  readonly Panel: (props: PanelProps) => ReactNode;
}

/** The words of a station that every path has. */
export const ownWords: StationUi["said"] = (_row, station) => [station?.label ?? "", station?.detail ?? ""];

/** The choices of a delivery: each says whether it departs from the brief, and goes back to it on one click. */
export function useChoices({ row, line, into }: FieldsProps) {
  const { editLines } = useSession();
  const edit = (change: (one: TicketLine) => TicketLine) => editLines(into, change);
  const formats = useFormats();
  const now = settledOf(row, line);
  const set = (changes: Partial<Changes>) =>
    edit((one) => ({ ...one, changes: { ...one.changes, ...changes } }));
  return {
    now,
    formats,
    can: formats.of(now.container),
    set,
    edit,
    field: (name: keyof Changes, label: string, control: (id: string) => ReactNode) => (
      <Field
        label={label}
        departs={line.changes[name] !== null}
        back={() => set({ [name]: null } as Partial<Changes>)}
      >
        {control}
      </Field>
    ),
  };
}
