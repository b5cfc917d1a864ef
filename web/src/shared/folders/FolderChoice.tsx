import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Checkbox, Input, Popover } from "antd";
import { type ReactNode, useState } from "react";
import { api, type FilesOf, type FolderShown } from "../../api/client";
import { NameForm } from "../forms/NameForm";
import { folderName, folderWords } from "../text/folders";
import { bytes } from "../text/format";

const freeWords = (free: number | null) => (free === null ? "" : `${bytes(free)} free`);

const useOffered = (of: FilesOf) => useQuery({ queryKey: ["folders", of], queryFn: () => api.folders(of) });

interface FolderChoiceProps {
  of: FilesOf;
  /** Where the files go now, and why they cannot; empty where they can. */
  folder: string;
  problem: string;
  /** Takes a folder; an empty one is the usual. */
  choose: (folder: string) => void;
  children?: ReactNode;
}

/** Where files go: a folder of those that are offered, or any below the home folder. */
export function FolderChoice(props: FolderChoiceProps) {
  const [open, setOpen] = useState(false);
  const { folder, problem } = props;
  const choose = (next: string) => {
    props.choose(next);
    setOpen(false);
  };
  return (
    <Popover
      trigger="click"
      placement="topRight"
      open={open}
      onOpenChange={setOpen}
      destroyOnHidden
      title="Save to"
      content={<Choosing {...props} choose={choose} />}
    >
      <Button className="save-to" danger={problem !== ""} title={problem || folder}>
        <span className="save-words">Save to</span> <b>{folderWords(folder)}</b> ▾
      </Button>
    </Popover>
  );
}

function Choosing({ of, folder, problem, choose, children }: FolderChoiceProps) {
  const offered = useOffered(of);
  const [browsing, setBrowsing] = useState<string | null>(null);
  return (
    <div className="folder-choice">
      {problem && (
        <p className="field-error" role="alert">
          {problem}
        </p>
      )}
      {browsing === null ? (
        <>
          <ul className="pick-list" aria-label="Folders">
            {offered.data?.map((one) => (
              <li key={one.path}>
                <button
                  type="button"
                  aria-pressed={one.path === folder}
                  title={one.path}
                  onClick={() => choose(one.label === "Usual" ? "" : one.path)}
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
          <Remember of={of} folder={folder} />
          {children}
        </>
      ) : (
        <Browsing of={of} from={browsing} go={setBrowsing} choose={choose} />
      )}
    </div>
  );
}

interface BrowsingProps {
  of: FilesOf;
  from: string;
  /** To another folder; null goes back to the list. */
  go: (folder: string | null) => void;
  choose: (folder: string) => void;
}

/** The folders of the machine that presses. */
function Browsing({ of, from, go, choose }: BrowsingProps) {
  const queries = useQueryClient();
  const [typed, setTyped] = useState<string | null>(null);
  const shown = useQuery({
    queryKey: ["folder", of, from],
    queryFn: () => api.folder(from, of),
    placeholderData: (before) => before,
    retry: false,
  });
  const make = async (where: FolderShown, name: string) => {
    const made = await api.makeFolder(where.path, name, of);
    await queries.invalidateQueries({ queryKey: ["folder"] });
    go(made.path);
  };
  const here = shown.data;
  const problem = shown.error;
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
      <ul className="pick-list" aria-label={`Folders in ${folderName(here?.path ?? "")}`}>
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
        <NameForm
          label="Name of the new folder"
          placeholder="New folder"
          button="Add folder"
          most={120}
          save={(name) => make(here, name)}
        />
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
function Remember({ of, folder }: { of: FilesOf; folder: string }) {
  const queries = useQueryClient();
  const set = useMutation({
    mutationFn: (path: string) => api.setUsualFolder(of, path),
    onSuccess: (folders) => {
      queries.setQueryData(["folders", of], folders);
      for (const key of ["ticket", "orders", "handoffs"]) void queries.invalidateQueries({ queryKey: [key] });
    },
  });
  const usual = useOffered(of).data?.find((one) => one.label === "Usual");
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
