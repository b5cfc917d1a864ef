import type { InputRef } from "antd";
import { lazy, Suspense, useEffect, useRef, useState } from "react";

const Dialog = lazy(async () => ({ default: (await import("./PaletteDialog")).PaletteDialog }));

/** Ctrl K, anywhere, opens the search of commands; it is loaded when it is first opened. */
export function Palette({ toggleMode }: { toggleMode: () => void }) {
  const [open, setOpen] = useState<boolean | null>(null);
  const [typed, setTyped] = useState("");
  const field = useRef<InputRef>(null);
  // Known to the listener at once: the next letter comes before the page is drawn again.
  const opened = useRef(false);
  const turn = (now: boolean) => {
    opened.current = now;
    setOpen(now);
  };
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const held = event.ctrlKey || event.metaKey;
      const focused = document.activeElement;
      if (event.key.toLowerCase() === "k" && held && !event.shiftKey && !event.altKey) {
        setTyped("");
        turn(!opened.current);
      } else if (
        opened.current &&
        event.key.length === 1 &&
        !held &&
        !event.altKey &&
        focused !== field.current?.input &&
        !focused?.matches(".ant-modal-close")
      ) {
        // Letters typed while the dialog loads and opens.
        setTyped((text) => text + event.key);
      } else return;
      event.preventDefault();
      event.stopPropagation();
    };
    // Before anything else on the page takes it: it opens from within a field, too.
    window.addEventListener("keydown", listen, { capture: true });
    return () => window.removeEventListener("keydown", listen, { capture: true });
  }, []);
  if (open === null) return null;
  return (
    <Suspense fallback={null}>
      <Dialog {...{ open, field, typed, setTyped, toggleMode }} close={() => turn(false)} />
    </Suspense>
  );
}
