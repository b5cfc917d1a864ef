import { useMutation } from "@tanstack/react-query";
import { Button, Input, Popover } from "antd";
import { api, type BenchState, type Marker, type Mix, markersUrl } from "../../../api/client";
import { ChooseFiles } from "../../../shared/files/ChooseFiles";
import { TimeField, type Timing } from "../../../shared/time/TimeField";
import { SetOutFile } from "../ticket/SetOutFile";

interface MarkerListProps {
  mix: Mix;
  bench: BenchState;
  timing: Timing;
  setMarkers: (markers: readonly Marker[]) => void;
  show: (frame: number) => void;
  add: () => void;
}

/** All markers by name and time, with import and export. */
export function MarkerList(props: MarkerListProps) {
  const { bench } = props;
  return (
    <Popover trigger="click" placement="bottomRight" content={<List {...props} />} destroyOnHidden>
      <Button size="small">Markers{bench.markers.length ? ` (${bench.markers.length})` : ""}</Button>
    </Popover>
  );
}

function List({ mix, bench, timing, setMarkers, show, add }: MarkerListProps) {
  const read = useMutation({
    mutationFn: async (file: File) => api.readMarkers(mix.id, await file.text(), bench.tempo),
    onSuccess: (found) => setMarkers([...bench.markers, ...found]),
  });
  const replace = (index: number, marker: Marker) =>
    setMarkers(bench.markers.map((one, at) => (at === index ? marker : one)));
  const inFile = mix.embedded.markers.length;
  return (
    <div className="marker-list">
      {!bench.markers.length && <p className="quiet">No markers. Press M to add one at the cursor.</p>}
      <ul>
        {bench.markers.map((marker, index) => (
          <li key={`${index}/${bench.markers.length}`}>
            <Input
              size="small"
              aria-label={`Name of marker ${index + 1}`}
              defaultValue={marker.name}
              maxLength={120}
              onBlur={(event) => {
                const name = event.target.value.trim();
                if (name && name !== marker.name) replace(index, { ...marker, name });
              }}
              onPressEnter={(event) => event.currentTarget.blur()}
            />
            <TimeField
              mix={mix}
              timing={timing}
              label={`Time of ${marker.name}`}
              labelHidden
              frame={marker.frame}
              onFrame={(frame) => replace(index, { ...marker, frame })}
            />
            <Button size="small" onClick={() => show(marker.frame)}>
              Show
            </Button>
            <Button
              size="small"
              type="text"
              aria-label={`Delete ${marker.name}`}
              onClick={() => setMarkers(bench.markers.filter((_, at) => at !== index))}
            >
              ×
            </Button>
          </li>
        ))}
      </ul>
      {read.error && (
        <p className="field-error" role="alert">
          {read.error.message}
        </p>
      )}
      <div className="marker-acts">
        <Button size="small" onClick={add}>
          Add at cursor
        </Button>
        <ChooseFiles
          name="marker-chooser"
          accept=".csv,.json,.txt"
          choose={([file]) => file && read.mutate(file)}
          size="small"
          loading={read.isPending}
        >
          Import
        </ChooseFiles>
        {bench.markers.length > 0 && (
          <>
            <SetOutFile mix={mix} href={markersUrl(mix.id, "csv")}>
              Export CSV
            </SetOutFile>
            <SetOutFile mix={mix} href={markersUrl(mix.id, "json")}>
              Export JSON
            </SetOutFile>
          </>
        )}
        {inFile > 0 && (
          <Button size="small" onClick={() => setMarkers(mix.embedded.markers)}>
            Use {inFile} from file
          </Button>
        )}
      </div>
    </div>
  );
}
