import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Checkbox, Input, Popover } from "antd";
import { useState } from "react";
import { api, type FolderShown, type Mix, type Ticket } from "../../../api/client";
import { useDropOffs } from "../../../shared/sending/queries";
import { folderName, folderWords } from "../../../shared/text/folders";
import { bytes } from "../../../shared/text/format";
import { useSession, useSetOut } from "../session";

const freeWords = (free: number | null) => (free === null ? "" : `${bytes(free)} free`);

const useOffered = (mix: Mix) =>
  useQuery({ queryKey: ["folders", mix.id], queryFn: () => api.folders(mix.id) });

/** Where the files of the ticket go: one folder, and drop-offs that they are sent to as well. */
export function SaveTo({ mix, ticket }: { mix: Mix; ticket: Ticket | undefined }) {
  const [open, setOpen] = useState(false);
  if (!ticket) return null;
  return (
    <Popover
      trigger="click"
      placement="topRight"
      open={open}
      onOpenChange={setOpen}
      destroyOnHidden
      title="Save to"
      content={<Choosing mix={mix} ticket={ticket} close={() => setOpen(false)} />}
    >
      <Button
        className="save-to"
        danger={ticket.folder_problem !== ""}
        title={ticket.folder_problem || ticket.folder}
      >
        <span className="save-words">Save to</span> <b>{folderWords(ticket.folder)}</b> ▾
      </Button>
    </Popover>
  );
}

function Choosing({ mix, ticket, close }: { mix: Mix; ticket: Ticket; close: () => void }) {
  const session = useSession();
  const offered = useOffered(mix);
  const [browsing, setBrowsing] = useState<string | null>(null);
  const choose = (folder: string) => {
    session.set({ ...session.bench(), folder });
    close();
  };
  return (
    <div className="folder-choice">
      {ticket.folder_problem && (
        <p className="field-error" role="alert">
          {ticket.folder_problem}
        </p>
      )}
      {browsing === null ? (
        <>
          <ul aria-label="Folders">
            {offered.data?.map((one) => (
              <li key={one.path}>
                <button
                  type="button"
                  aria-pressed={one.path === ticket.folder}
                  title={one.path}
                  onClick={() => choose(one.path)}
                >
                  <b>{folderWords(one.path)}</b>
                  <small>
                    {one.label} · {freeWords(one.free_bytes)}
                  </small>
                </button>
              </li>
            ))}
          </ul>
          {offered.error && <p role="alert">{offered.error.message}</p>}
          <Button size="small" onClick={() => setBrowsing("")}>
            Choose another folder
          </Button>
          <Remember mix={mix} folder={ticket.folder} />
          <AlsoSend />
        </>
      ) : (
        <Browsing mix={mix} from={browsing} go={setBrowsing} choose={choose} />
      )}
    </div>
  );
}

interface BrowsingProps {
  mix: Mix;
  from: string;
  /** To another folder; null goes back to the list. */
  go: (folder: string | null) => void;
  choose: (folder: string) => void;
}

/** The folders of the machine that presses. */
function Browsing({ mix, from, go, choose }: BrowsingProps) {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [typed, setTyped] = useState<string | null>(null);
  const shown = useQuery({
    queryKey: ["folder", mix.id, from],
    queryFn: () => api.folder(from, mix.id),
    placeholderData: (before) => before,
    retry: false,
  });
  const make = useMutation({
    mutationFn: (here: FolderShown) => api.makeFolder(here.path, name.trim(), mix.id),
    onSuccess: async (made) => {
      setName("");
      await queries.invalidateQueries({ queryKey: ["folder"] });
      go(made.path);
    },
  });
  const here = shown.data;
  const problem = shown.error ?? make.error;
  return (
    <>
      <div className="folder-path">
        <Button size="small" disabled={!here?.parent} onClick={() => here?.parent && go(here.parent)}>
          Go up
        </Button>
        <Input
          size="small"
          aria-label="Folder path"
          value={typed ?? here?.path ?? from}
          onChange={(event) => setTyped(event.target.value)}
          onPressEnter={() => {
            if (typed !== null) go(typed.trim());
            setTyped(null);
          }}
        />
      </div>
      {problem && (
        <p className="field-error" role="alert">
          {problem.message}
        </p>
      )}
      <ul aria-label={`Folders in ${folderName(here?.path ?? "")}`}>
        {here?.folders.map((one) => (
          <li key={one}>
            <button type="button" onClick={() => go(`${here.path.replace(/\/$/, "")}/${one}`)}>
              <b>{one}</b>
            </button>
          </li>
        ))}
        {here && !here.folders.length && <li className="quiet">No folders in here.</li>}
      </ul>
      {here && (
        <div className="folder-path">
          <Input
            size="small"
            aria-label="Name of the new folder"
            placeholder="New folder"
            value={name}
            maxLength={120}
            onChange={(event) => setName(event.target.value)}
            onPressEnter={() => name.trim() && make.mutate(here)}
          />
          <Button
            size="small"
            disabled={!name.trim()}
            loading={make.isPending}
            onClick={() => make.mutate(here)}
          >
            Add folder
          </Button>
        </div>
      )}
      <div className="folder-path">
        <Button size="small" onClick={() => go(null)}>
          Go back
        </Button>
        <Button
          size="small"
          type="primary"
          disabled={!here?.writable}
          onClick={() => here && choose(here.path)}
        >
          Use this folder
        </Button>
        {here && <small>{here.writable ? freeWords(here.free_bytes) : "read only"}</small>}
      </div>
    </>
  );
}

/** Makes the chosen folder the usual one: a folder with the name of its mix means one folder a mix. */
function Remember({ mix, folder }: { mix: Mix; folder: string }) {
  const queries = useQueryClient();
  const set = useMutation({
    mutationFn: (path: string) => api.setUsualFolder(mix.id, path),
    onSuccess: (folders) => {
      queries.setQueryData(["folders", mix.id], folders);
      return queries.invalidateQueries({ queryKey: ["ticket"] });
    },
  });
  const usual = useOffered(mix).data?.[0];
  return (
    <>
      <Checkbox
        checked={usual?.path === folder}
        disabled={set.isPending}
        onChange={(event) => set.mutate(event.target.checked ? folder : "")}
      >
        Also for the next mixes
      </Checkbox>
      {set.error && (
        <p className="field-error" role="alert">
          {set.error.message}
        </p>
      )}
    </>
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
