import type { ReactNode } from "react";
import type { Changes, Mix, Row, TicketLine } from "../../../../api/client";
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
  readonly codecTrial: CodecTrial;
  readonly levels: LevelTrials;
}

/** What can be chosen at a station. */
export interface FieldsProps {
  readonly row: Row;
  readonly line: TicketLine;
}

/** A station as the page shows it: all that a kind of station adds is a file in this folder and a line in `index`. */
export interface StationUi {
  /** The heading above its name: its part of the path. */
  readonly title: string;
  readonly heading?: string;
  readonly Panel: (props: PanelProps) => ReactNode;
  /** Its choices, which the panel of the file shows too. */
  readonly Fields?: (props: FieldsProps) => ReactNode;
}

/** The choices of a delivery: each says whether it departs from the brief, and goes back to it on one click. */
export function useChoices({ row, line }: FieldsProps) {
  const { setLine } = useSession();
  const formats = useFormats();
  const now = settledOf(row, line);
  const set = (changes: Partial<Changes>) => setLine({ ...line, changes: { ...line.changes, ...changes } });
  return {
    now,
    formats,
    can: formats.of(now.container),
    set,
    setLine,
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
