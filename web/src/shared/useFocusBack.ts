import { useEffect, useRef } from "react";

/** For a dialog that goes away as it is closed: gives the focus back to what had it as it was opened, if that is there. */
export function useFocusBack(): void {
  const before = useRef(document.activeElement);
  useEffect(() => {
    const had = before.current;
    // Once the dialog is out of the page: it holds the focus as long as it is in it.
    return () => void setTimeout(() => had instanceof HTMLElement && had.isConnected && had.focus());
  }, []);
}
