import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Popconfirm } from "antd";
import { useEffect, useState } from "react";
import { useSearchParams } from "react-router";
import { api, type Brief, type BriefRequest, briefFileUrl, type LevelRequest } from "../../api/client";
import { ChooseFiles } from "../../shared/files/ChooseFiles";
import { Figures } from "../../shared/text/Figures";
import { bytes, level, rate } from "../../shared/text/format";
import { type Formats, useFormats } from "../../shared/text/formats";
import { LEVEL_UNITS, LEVELS } from "../../shared/text/words";
import { BriefForm } from "./BriefForm";

function levelWords(wish: LevelRequest): string {
  if (wish.kind === "leave") return LEVELS.leave;
  const ceiling = wish.kind === "loudness" ? `, max ${level(wish.ceiling_dbtp, "dBTP")}` : "";
  const down = wish.only_down ? ", never raised" : "";
  const decoded = wish.back_off ? ", also after decoding" : "";
  return `${LEVELS[wish.kind]} ${level(wish.target, LEVEL_UNITS[wish.kind])}${ceiling}${down}${decoded}`;
}

function requirements(brief: Brief, formats: Formats): [string, string][] {
  const { require } = brief;
  const lines: [string, string][] = [];
  if (require.containers.length)
    lines.push(["Formats", require.containers.map((one) => formats.of(one)?.title ?? one).join(", ")]);
  if (require.encodings.length)
    lines.push([
      "Depths",
      require.encodings
        .filter((one) => one !== "lossy")
        .map((one) => formats.depth(one))
        .join(", "),
    ]);
  if (require.kbps_min !== null) lines.push(["Min bit rate", `${require.kbps_min} kbit/s`]);
  if (require.rates_hz.length) lines.push(["Rates", require.rates_hz.map(rate).join(", ")]);
  if (require.channels.length) lines.push(["Channels", require.channels.join(" or ")]);
  if (require.sample_peak_max_dbfs !== null)
    lines.push(["Max sample peak", level(require.sample_peak_max_dbfs)]);
  if (require.true_peak_max_dbtp !== null)
    lines.push(["Max true peak", level(require.true_peak_max_dbtp, "dBTP")]);
  if (require.loudness_lufs)
    lines.push(["Loudness", require.loudness_lufs.map((one) => level(one, "LUFS")).join(" to ")]);
  if (require.seconds_max !== null) lines.push(["Max length", `${require.seconds_max} s`]);
  if (require.bytes_max !== null) lines.push(["Max size", bytes(require.bytes_max)]);
  if (brief.tags.length) lines.push(["Required tags", brief.tags.join(", ")]);
  return lines;
}

function preferences(
  { prefer, label_pattern, drop_off, sends_to }: Brief,
  formats: Formats,
): [string, string][] {
  const lines: [string, string][] = [
    ["Format", formats.of(prefer.container)?.title ?? prefer.container],
    prefer.encoding === "lossy"
      ? ["Bit rate", prefer.kbps ? `${prefer.kbps} kbit/s ${prefer.mode ?? ""}` : "default"]
      : ["Depth", formats.depth(prefer.encoding)],
    ["Rate", prefer.rate_hz === "keep" ? "same as mix" : rate(prefer.rate_hz)],
    ["Channels", prefer.channels === "keep" ? "same as mix" : prefer.channels],
    ["Level", levelWords(prefer.level)],
    ["Finishing chain", prefer.finish ? "applied" : "off"],
    ["File name", label_pattern],
  ];
  if (prefer.from_bar) lines.push(["Start", "on a bar line if the tempo is known"]);
  if (prefer.longest_s) lines.push(["Max length", `${prefer.longest_s} s, in whole bars`]);
  if (prefer.fade_in_s || prefer.fade_out_s)
    lines.push(["Fades", `${prefer.fade_in_s * 1000} ms in, ${prefer.fade_out_s * 1000} ms out`]);
  if (prefer.tempo_map) lines.push(["Tempo", "as a MIDI file and in the tags"]);
  if (prefer.gain_tags) lines.push(["Loudness tags", "written"]);
  if (!prefer.markers) lines.push(["Markers", "not written"]);
  if (prefer.loop_points) lines.push(["Loop points", "written"]);
  if (drop_off) lines.push(["Sub-folder", drop_off]);
  if (sends_to.length) lines.push(["Send to", sends_to.join(", ")]);
  return lines;
}

export function BriefsPage() {
  const formats = useFormats();
  const queries = useQueryClient();
  const briefs = useQuery({ queryKey: ["briefs"], queryFn: api.briefs });
  const [asked] = useSearchParams();
  const wanted = asked.get("brief") ?? "audio-cd";
  const [chosenId, setChosenId] = useState(wanted);
  // A link to another brief selects that one.
  useEffect(() => setChosenId(wanted), [wanted]);
  const settled = async (brief?: Brief) => {
    await queries.invalidateQueries({ queryKey: ["briefs"] });
    await queries.invalidateQueries({ queryKey: ["ticket"] });
    setChosenId(brief?.id ?? "audio-cd");
  };
  const copy = useMutation({ mutationFn: api.copyBrief, onSuccess: settled });
  const remove = useMutation({ mutationFn: api.removeBrief, onSuccess: () => settled() });
  const keep = useMutation({ mutationFn: api.keepBrief, onSuccess: settled });
  const bring = useMutation({
    mutationFn: async (file: File) => {
      const text = await file.text();
      let body: BriefRequest;
      try {
        body = JSON.parse(text);
      } catch {
        throw new Error(`${file.name} is not a brief (invalid JSON).`);
      }
      return api.keepBrief(body);
    },
    onSuccess: settled,
  });
  const brief = briefs.data?.find((one) => one.id === chosenId);
  const problem = copy.error ?? remove.error ?? keep.error ?? bring.error ?? briefs.error;
  return (
    <div className="briefs">
      <header className="page-head">
        <h1>Briefs</h1>
        <p>Recipients' requirements. Duplicate one to customise it.</p>
        <ChooseFiles
          name="brief-chooser"
          accept=".json"
          choose={([file]) => file && bring.mutate(file)}
          loading={bring.isPending}
        >
          Import
        </ChooseFiles>
      </header>
      {problem && (
        <p className="field-error" role="alert">
          {problem.message}
        </p>
      )}
      <div className="briefs-room">
        <nav className="briefs-list" aria-label="Briefs">
          {briefs.data?.map((one) => (
            <button
              key={one.id}
              type="button"
              aria-pressed={one.id === chosenId}
              onClick={() => setChosenId(one.id)}
            >
              <b>{one.title}</b>
              {one.own && <small>custom</small>}
            </button>
          ))}
        </nav>
        {brief && (
          <article className="sheet brief" aria-label={brief.title}>
            <header>
              <div>
                <h2>{brief.title}</h2>
                <p>{brief.sentence}</p>
                <p className="quiet">{brief.why}</p>
              </div>
              <span className="brief-acts">
                <Button loading={copy.isPending} onClick={() => copy.mutate(brief.id)}>
                  Duplicate
                </Button>
                <Button href={briefFileUrl(brief.id)} download>
                  Export
                </Button>
                {brief.own && (
                  <Popconfirm
                    title={`Delete ${brief.title}?`}
                    okText="Delete"
                    cancelText="Cancel"
                    onConfirm={() => remove.mutate(brief.id)}
                  >
                    <Button danger>Delete</Button>
                  </Popconfirm>
                )}
              </span>
            </header>
            {brief.own ? (
              <BriefForm
                key={JSON.stringify(brief)}
                brief={brief}
                saving={keep.isPending}
                save={(next) => keep.mutate(next)}
              />
            ) : (
              <div className="brief-columns">
                <Lines title="Requirements" lines={requirements(brief, formats)} empty="No requirements." />
                <Lines title="Default settings" lines={preferences(brief, formats)} empty="" />
              </div>
            )}
          </article>
        )}
      </div>
    </div>
  );
}

function Lines({ title, lines, empty }: { title: string; lines: [string, string][]; empty: string }) {
  return (
    <section>
      <h3>{title}</h3>
      {!lines.length && <p className="quiet">{empty}</p>}
      <Figures lines={lines} />
    </section>
  );
}
