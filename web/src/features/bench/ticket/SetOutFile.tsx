import { useMutation } from "@tanstack/react-query";
import { Button } from "antd";
import { type MouseEvent, useRef } from "react";
import { api, type Mix } from "../../../api/client";
import { sameBench } from "../model";
import { useHold } from "../queries";
import { useSession } from "../session";

interface SetOutFileProps {
  mix: Mix;
  href: string;
  children: string;
}

/** Opens a file of the current ticket: a recent change is saved first. */
export function SetOutFile({ mix, href, children }: SetOutFileProps) {
  const session = useSession();
  const hold = useHold(mix, session);
  const link = useRef<HTMLAnchorElement>(null);
  const keep = useMutation({
    mutationFn: async () => {
      const sent = session.bench();
      hold(await api.setBench(mix.id, mix.content, sent), sent);
    },
    onSuccess: () => link.current?.click(),
  });
  const keepFirst = (event: MouseEvent) => {
    const { history, kept } = session.store.getState();
    if (sameBench(kept, history.present)) return keep.reset();
    event.preventDefault();
    keep.mutate();
  };
  return (
    <>
      <Button ref={link} size="small" href={href} download onClick={keepFirst}>
        {children}
      </Button>
      {keep.error && (
        <p className="field-error" role="alert">
          {keep.error.message}
        </p>
      )}
    </>
  );
}
