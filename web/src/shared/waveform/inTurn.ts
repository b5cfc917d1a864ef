const BUDGET_MS = 4;
const waiting = new Set<() => void>();
let running = 0;

/**
 * Draws in turn, a few at a time between two frames, so that many pictures at once do not block
 * scrolling; a caller that is gone calls the returned function, and is not drawn at all.
 */
export function inTurn(draw: () => void): () => void {
  waiting.add(draw);
  if (!running) running = requestAnimationFrame(step);
  return () => void waiting.delete(draw);
}

function step(): void {
  const end = performance.now() + BUDGET_MS;
  for (const draw of waiting) {
    waiting.delete(draw);
    draw();
    if (performance.now() >= end) break;
  }
  running = waiting.size ? requestAnimationFrame(step) : 0;
}
