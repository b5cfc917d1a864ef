import { lazy, Suspense, useEffect, useState } from "react";

const Dialog = lazy(async () => ({ default: (await import("./PaletteDialog")).PaletteDialog }));

/** Ctrl K, anywhere, opens the search of commands; it is loaded when it is first opened. */
export function Palette({ toggleMode }: { toggleMode: () => void }) {
  const [open, setOpen] = useState<boolean | null>(null);
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (
        event.key.toLowerCase() !== "k" ||
        !(event.ctrlKey || event.metaKey) ||
        event.shiftKey ||
        event.altKey
      )
        return;
      event.preventDefault();
      event.stopPropagation();
      setOpen((now) => !now);
    };
    // Before anything else on the page takes it: it opens from within a field, too.
    window.addEventListener("keydown", listen, { capture: true });
    return () => window.removeEventListener("keydown", listen, { capture: true });
  }, []);
  if (open === null) return null;
  return (
    <Suspense fallback={null}>
      <Dialog open={open} close={() => setOpen(false)} toggleMode={toggleMode} />
    </Suspense>
  );
}
