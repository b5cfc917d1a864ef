import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Modal } from "antd";
import { api, type ShelfMix } from "../../../api/client";
import { useLastMix } from "../../../shared/lastMix";
import { useFocusBack } from "../../../shared/useFocusBack";

/** Asks before a mix goes off the shelf, and says what becomes of its file. */
export function TakeOffDialog({ mix, onClose }: { mix: ShelfMix; onClose: () => void }) {
  useFocusBack();
  const queries = useQueryClient();
  const remove = useMutation({
    mutationFn: () => api.removeMix(mix.id),
    onSuccess: () => {
      useLastMix.getState().forget(mix.id);
      onClose();
      void queries.invalidateQueries({ queryKey: ["shelf"] });
    },
  });
  const pile = mix.versions > 1 ? ` All ${mix.versions} versions are removed.` : "";
  return (
    <Modal
      open
      width={460}
      title={`Remove ${mix.title} from the Shelf?`}
      okText="Remove"
      cancelText="Cancel"
      okButtonProps={{ loading: remove.isPending }}
      onOk={() => remove.mutate()}
      onCancel={onClose}
    >
      <p>
        {!mix.came_from
          ? "Deletes the uploaded copy and its ticket. Pressed files are kept."
          : "Deletes its ticket. The file and pressed files are kept."}
        {pile}
      </p>
      {remove.error && (
        <p className="field-error" role="alert">
          {remove.error.message}
        </p>
      )}
    </Modal>
  );
}
