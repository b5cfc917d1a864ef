import { Checkbox } from "antd";
import type { Mix, Ticket } from "../../../api/client";
import { FolderChoice } from "../../../shared/folders/FolderChoice";
import { useDropOffs } from "../../../shared/sending/queries";
import { useSession, useSetOut } from "../session";

/** Where the files of the ticket go: one folder, and drop-offs that they are sent to as well. */
export function SaveTo({ mix, ticket }: { mix: Mix; ticket: Ticket | undefined }) {
  const session = useSession();
  if (!ticket) return null;
  return (
    <FolderChoice
      of={{ mix_id: mix.id }}
      folder={ticket.folder}
      problem={ticket.folder_problem}
      choose={(folder) => session.set({ ...session.bench(), folder })}
    >
      <AlsoSend />
    </FolderChoice>
  );
}

/** Drop-offs that every file of the ticket is sent to once it is verified. */
function AlsoSend() {
  const session = useSession();
  const { ticket } = useSetOut();
  const dropOffs = useDropOffs().data?.drop_offs ?? [];
  if (!dropOffs.length || !ticket.length) return null;
  const ids = ticket.map((line) => line.id);
  return (
    <fieldset aria-label="Also send to">
      <span className="quiet">Also send to</span>
      {dropOffs.map(({ drop_off: { name } }) => {
        const sent = ticket.filter((line) => line.changes.sends_to?.includes(name)).length;
        return (
          <Checkbox
            key={name}
            checked={sent === ticket.length}
            indeterminate={sent > 0 && sent < ticket.length}
            onChange={({ target: { checked } }) =>
              session.editLines(ids, (line) => {
                const others = (line.changes.sends_to ?? []).filter((one) => one !== name);
                const sends_to = checked ? [...others, name] : others;
                return { ...line, changes: { ...line.changes, sends_to } };
              })
            }
          >
            {name}
          </Checkbox>
        );
      })}
    </fieldset>
  );
}
