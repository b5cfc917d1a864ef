import { useMutation, useQuery } from "@tanstack/react-query";
import { Button, Modal } from "antd";
import { Link } from "react-router";
import { api, type MixVersion, type ShelfMix } from "../../../api/client";
import { sentence } from "../../../shared/ChangeNote";
import { clock, level, rate } from "../../../shared/text/format";
import { when } from "../../../shared/text/pressings";
import { useOtherMix, useOtherVersion } from "../../../shared/useChanges";
import { useFocusBack } from "../../../shared/useFocusBack";

/**
 * The versions of a mix with the differences of each from the previous one; any can be used, played
 * or separated.
 */
export function VersionsDialog({ mix, onClose }: { mix: ShelfMix; onClose: () => void }) {
  useFocusBack();
  const other = useOtherVersion();
  const otherMix = useOtherMix();
  const pile = useQuery({ queryKey: ["shelf", "versions", mix.id], queryFn: () => api.mixVersions(mix.id) });
  const use = useMutation({ mutationFn: (one: number) => api.useVersion(mix.id, one), onSuccess: other });
  const apart = useMutation({
    mutationFn: (one: number) => api.takeApart(mix.id, one),
    onSuccess: async (used) => {
      other(used);
      // The mix that it was taken from may have another version in use now.
      if (used.mix.id !== mix.id) otherMix(await api.mix(mix.id));
    },
  });
  const versions = pile.data ?? [];
  const problem = pile.error ?? use.error ?? apart.error;
  return (
    <Modal open width={760} title={`Versions of ${mix.title}`} footer={null} onCancel={onClose}>
      <ol className="versions" reversed aria-label="Versions">
        {versions.map((one) => (
          <li key={one.version} className="version">
            <b>Version {one.version}</b>
            <div>
              <p>
                {one.sentences.length > 0
                  ? sentence(one.sentences)
                  : one.version === Math.min(...versions.map((each) => each.version))
                    ? "First version."
                    : ""}
              </p>
              <p className="version-figures">{figuresOf(one)}</p>
            </div>
            <div className="version-acts">
              {one.in_use ? (
                <span className="in-use">current</span>
              ) : (
                <>
                  {one.there && (
                    <Link to={`/desk/${mix.id}?beside=${besideOf(mix.id, one.version)}`}>
                      Compare with current
                    </Link>
                  )}
                  {one.there && (
                    <Button
                      size="small"
                      loading={use.isPending && use.variables === one.version}
                      onClick={() => use.mutate(one.version)}
                    >
                      Make current
                    </Button>
                  )}
                </>
              )}
              {versions.length > 1 && (one.there || one.in_use) && (
                <Button
                  size="small"
                  type="text"
                  loading={apart.isPending && apart.variables === one.version}
                  onClick={() => apart.mutate(one.version)}
                >
                  Split off
                </Button>
              )}
            </div>
          </li>
        ))}
      </ol>
      {problem && (
        <p className="field-error" role="alert">
          {problem.message}
        </p>
      )}
    </Modal>
  );
}

const besideOf = (mix: number, version: number) =>
  encodeURIComponent(JSON.stringify([{ mix_id: mix, version }]));

function figuresOf(one: MixVersion): string {
  const parts = [
    `added ${when(one.came_at)}`,
    clock(one.frames, one.rate_hz, 0),
    rate(one.rate_hz),
    one.depth_label,
    level(one.integrated_lufs, "LUFS"),
    level(one.true_peak_dbtp, "dBTP"),
  ];
  if (!one.there) parts.push("Original missing or overwritten. Only its pressed files can be played.");
  return parts.join(" · ");
}
