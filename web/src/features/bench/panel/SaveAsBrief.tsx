import { useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { api, type Mix, type Row } from "../../../api/client";
import { NameForm } from "../../../shared/forms/NameForm";
import { useSession } from "../session";

/** Saves the settings of a delivery as a brief; its requirements are proposed from them, and edited in Briefs. */
export function SaveAsBrief({ mix, row }: { mix: Mix; row: Row }) {
  const session = useSession();
  const queries = useQueryClient();
  const { message } = App.useApp();
  const save = async (title: string) => {
    const brief = await api.saveAsBrief(mix.id, session.bench(), row.id, title);
    message.success(`Brief ${brief.title} saved. Its requirements are in Briefs.`);
    await queries.invalidateQueries({ queryKey: ["briefs"] });
  };
  return (
    <NameForm primary label="Title of the brief" placeholder="New title" button="Save as brief" save={save} />
  );
}
