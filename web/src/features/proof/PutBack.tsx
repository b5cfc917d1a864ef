import { useMutation } from "@tanstack/react-query";
import { Button } from "antd";
import { Link } from "react-router";
import { api, type PressedFile, type Pressing } from "../../api/client";

/** A pressed file goes back: beside its mix as a stem, or on the shelf as a mix of its own. */
export function PutBack({ pressing, file }: { pressing: Pressing; file: PressedFile }) {
  const { mix_id: mix } = pressing;
  const beside = useMutation({ mutationFn: (id: number) => api.putBeside(id, pressing.id, file.number) });
  const shelf = useMutation({ mutationFn: () => api.putOnShelf(pressing.id, file.number) });
  const error = beside.error ?? shelf.error;
  return (
    <p className="put-back">
      <span className="quiet">Use this file:</span>
      {mix !== null &&
        (beside.isSuccess ? (
          <span role="status">
            Adding to stems … <Link to={`/bench/${mix}`}>its mix</Link>.
          </span>
        ) : (
          <Button size="small" loading={beside.isPending} onClick={() => beside.mutate(mix)}>
            Add to stems
          </Button>
        ))}
      {shelf.isSuccess ? (
        <span role="status">
          Being imported. See the <Link to="/shelf">shelf</Link>.
        </span>
      ) : (
        <Button size="small" loading={shelf.isPending} onClick={() => shelf.mutate()}>
          Add to Shelf
        </Button>
      )}
      {error && (
        <span className="over" role="alert">
          {error.message}
        </span>
      )}
    </p>
  );
}
