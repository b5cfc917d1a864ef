import { useMutation } from "@tanstack/react-query";
import { Button, Checkbox, Popconfirm, Progress } from "antd";
import { Link } from "react-router";
import { type Arrival, api, type ShelfMix } from "../../api/client";
import { channels, clock, level, rate } from "../../shared/format";
import { forgetMix } from "../../shared/lastMix";
import { when } from "../../shared/pressings";
import { Thumbnail } from "../../shared/waveform/Thumbnail";

interface MixCardProps {
  mix: ShelfMix;
  chosen: boolean;
  onChoose: (chosen: boolean) => void;
  onChange: () => void;
}

export function MixCard({ mix, chosen, onChoose, onChange }: MixCardProps) {
  const remove = useMutation({
    mutationFn: () => api.removeMix(mix.id),
    onSuccess: () => {
      forgetMix(mix.id);
      onChange();
    },
  });
  const over = mix.samples_over_full_scale > 0;
  return (
    <li className={`card${chosen ? " card-chosen" : ""}`}>
      <Checkbox
        className="card-choice"
        checked={chosen}
        aria-label={`Choose ${mix.title}`}
        onChange={(event) => onChoose(event.target.checked)}
      />
      <Link to={`/bench/${mix.id}`} className="card-link" aria-label={`Open ${mix.title} on the bench`}>
        <h2>{mix.title}</h2>
        <Thumbnail mix={mix} />
      </Link>
      <dl className="figures">
        <div>
          <dt>Length</dt>
          <dd>{clock(mix.frames, mix.rate_hz, 1)}</dd>
        </div>
        <div>
          <dt>Rate</dt>
          <dd>{rate(mix.rate_hz)}</dd>
        </div>
        <div>
          <dt>Depth</dt>
          <dd>{mix.depth_label}</dd>
        </div>
        <div>
          <dt>Channels</dt>
          <dd>{channels(mix.channels)}</dd>
        </div>
        <div>
          <dt>Peak</dt>
          <dd className={over ? "over" : ""}>{level(mix.sample_peak_dbfs)}</dd>
        </div>
      </dl>
      <div className="card-foot">
        <span className="path" title={mix.path}>
          {mix.owned ? "kept in the data folder" : mix.path}
          {mix.pressed_at && ` · pressed ${when(mix.pressed_at)}`}
        </span>
        <Popconfirm
          title={`Take ${mix.title} off the shelf?`}
          description={
            mix.owned ? "The uploaded copy is deleted. Pressed files stay." : "The file stays where it is."
          }
          okText="Take off"
          cancelText="Keep"
          onConfirm={() => remove.mutate()}
        >
          <Button size="small" type="text" loading={remove.isPending} aria-label={`Take off ${mix.title}`}>
            Take off
          </Button>
        </Popconfirm>
      </div>
      {remove.error && <p className="field-error">{remove.error.message}</p>}
    </li>
  );
}

export function ArrivalCard({ arrival, onChange }: { arrival: Arrival; onChange: () => void }) {
  const dismiss = useMutation({ mutationFn: () => api.dismiss(arrival.id), onSuccess: onChange });
  const refused = arrival.state === "refused";
  const share = arrival.total ? arrival.done / arrival.total : 0;
  return (
    <li className={`card${refused ? " card-refused" : ""}`}>
      <h2>{arrival.name}</h2>
      {refused ? (
        <p role="alert">{arrival.error}</p>
      ) : (
        <>
          <p>Reading and measuring</p>
          <Progress percent={Math.round(share * 100)} size="small" aria-label={`Reading ${arrival.name}`} />
        </>
      )}
      <Button size="small" loading={dismiss.isPending} onClick={() => dismiss.mutate()}>
        {refused ? "Dismiss" : "Cancel"}
      </Button>
    </li>
  );
}

interface SendingProps {
  name: string;
  share: number;
  error: string | null;
  onDismiss: () => void;
}

export function SendingCard({ name, share, error, onDismiss }: SendingProps) {
  return (
    <li className={`card${error ? " card-refused" : ""}`}>
      <h2>{name}</h2>
      {error ? (
        <>
          <p role="alert">{error}</p>
          <Button size="small" onClick={onDismiss}>
            Dismiss
          </Button>
        </>
      ) : (
        <>
          <p>Sending</p>
          <Progress percent={Math.round(share * 100)} size="small" aria-label={`Sending ${name}`} />
        </>
      )}
    </li>
  );
}
