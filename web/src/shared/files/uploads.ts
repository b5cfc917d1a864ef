import { useRef, useState } from "react";

/** A file on its way from this browser. */
export interface Sending {
  readonly key: number;
  readonly name: string;
  readonly share: number;
  readonly error: string | null;
}

/** A browser keeps six lines to a server: a folder that is sent must not take them all. */
const AT_ONCE = 2;

type Send = (file: File, onProgress: (sent: number, total: number) => void) => Promise<unknown>;

/** Files being sent from this browser: how far each is, and what went wrong. */
export function useUploads(sendOne: Send, onArrived: () => void) {
  const [sending, setSending] = useState<readonly Sending[]>([]);
  const next = useRef(0);
  const waiting = useRef<(() => void)[]>([]);
  const under = useRef(0);
  const change = (key: number, part: Partial<Sending>) =>
    setSending((all) => all.map((one) => (one.key === key ? { ...one, ...part } : one)));
  const dismiss = (key: number) => setSending((all) => all.filter((one) => one.key !== key));
  const send = (files: Iterable<File>) => {
    for (const file of files) {
      const key = next.current++;
      setSending((all) => [...all, { key, name: file.name, share: 0, error: null }]);
      waiting.current.push(() => {
        under.current += 1;
        sendOne(file, (sent, total) => change(key, { share: total ? sent / total : 1 }))
          .then(
            () => {
              dismiss(key);
              onArrived();
            },
            (error: Error) => change(key, { error: error.message }),
          )
          .finally(() => {
            under.current -= 1;
            begin();
          });
      });
    }
    begin();
  };
  const begin = () => {
    while (under.current < AT_ONCE) {
      const one = waiting.current.shift();
      if (!one) return;
      one();
    }
  };
  return { sending, send, dismiss };
}
