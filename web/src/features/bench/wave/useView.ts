import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { clampView, reveal, type View, wholeView, zoomAt } from "../../../shared/waveform/geometry";

/** An element and its size in whole pixels. */
function useSize() {
  const box = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  useLayoutEffect(() => {
    if (!box.current) return;
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry?.contentRect ?? { width: 0, height: 0 };
      setSize({ width: Math.floor(width), height: Math.floor(height) });
    });
    observer.observe(box.current);
    return () => observer.disconnect();
  }, []);
  return [box, size] as const;
}

/** The visible part of the mix, zoomed and moved by wheel, by key, or to show something. */
export function useView(frames: number, cursor: number) {
  const [box, { width, height }] = useSize();
  const wave = useRef<HTMLCanvasElement>(null);
  const [wanted, setView] = useState<View | null>(null);
  const view = width ? clampView(wanted ?? wholeView(frames, width), frames, width) : null;

  // The cursor stays visible when it is moved by key.
  useEffect(() => {
    if (width) setView((last) => last && reveal(last, cursor, frames, width));
  }, [cursor, frames, width]);

  // The wheel has to be listened to by hand: only so may it keep the page from scrolling.
  useEffect(() => {
    const canvas = wave.current;
    if (!canvas) return;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const sideways = event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY);
      const amount = event.deltaX || event.deltaY;
      setView((last) => {
        const now = last ?? wholeView(frames, width);
        return sideways
          ? clampView({ ...now, start: now.start + amount * now.framesPerPixel }, frames, width)
          : zoomAt(now, 1.0015 ** event.deltaY, event.offsetX, frames, width);
      });
    };
    canvas.addEventListener("wheel", onWheel, { passive: false });
    return () => canvas.removeEventListener("wheel", onWheel);
  }, [frames, width]);

  return {
    box,
    wave,
    width,
    height,
    view,
    setView,
    zoom: (factor: number, x = width / 2) =>
      setView((last) => zoomAt(last ?? wholeView(frames, width), factor, x, frames, width)),
    whole: () => setView(null),
    follow: (frame: number) => setView((last) => last && reveal(last, frame, frames, width)),
  };
}

export type ViewControl = ReturnType<typeof useView>;
