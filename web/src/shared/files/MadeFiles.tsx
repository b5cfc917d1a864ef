import { useMutation, useQuery } from "@tanstack/react-query";
import { App, Button } from "antd";
import { api, type Pressing, zipUrl } from "../../api/client";

/** What one does with finished files first: finds them, or takes them along. */
export function MadeFiles({ pressing }: { pressing: Pressing }) {
  const { message } = App.useApp();
  const here = useQuery({ queryKey: ["here"], queryFn: api.here, staleTime: Number.POSITIVE_INFINITY });
  const open = useMutation({
    mutationFn: () => api.openFolder(pressing.id),
    onError: (error) => message.error(error.message),
  });
  const there = pressing.files.filter((file) => file.there);
  const [first] = there;
  if (!first) return null;
  const folder = first.path.replace(/\/[^/]*$/, "");
  const copy = () =>
    navigator.clipboard.writeText(folder).then(
      () => message.success("Path copied."),
      () => message.error(`Could not copy. The folder is ${folder}.`),
    );
  return (
    <span className="made-files">
      <Button size="small" title={folder} onClick={() => void copy()}>
        Copy path
      </Button>
      {here.data?.opens_folders && (
        <Button size="small" loading={open.isPending} onClick={() => open.mutate()}>
          Open folder
        </Button>
      )}
      {there.length === pressing.files.length && there.length > 1 && (
        <Button size="small" href={zipUrl(pressing.id)} download>
          Download all
        </Button>
      )}
    </span>
  );
}
