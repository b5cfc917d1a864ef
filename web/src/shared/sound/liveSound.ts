const LEAD_S = 0.35;

/**
 * Plays float32 frames as they arrive, with a short delay: the return of a running live pass. Ends
 * with the stream, or when it is stopped.
 */
export async function playLive(response: Response, signal: AbortSignal): Promise<void> {
  const rateHz = Number(response.headers.get("X-Rate-Hz"));
  const channels = Number(response.headers.get("X-Channels"));
  const reader = response.body?.getReader();
  if (!reader || !rateHz || !channels || signal.aborted) return;
  const context = new AudioContext();
  const close = () => {
    // The stream's end and a stop may both come.
    if (context.state !== "closed") void context.close();
  };
  signal.addEventListener("abort", close);
  let left = new Uint8Array(0);
  let next = 0;
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done || signal.aborted) break;
      const bytes = new Uint8Array(left.length + value.length);
      bytes.set(left);
      bytes.set(value, left.length);
      const whole = bytes.length - (bytes.length % (4 * channels));
      left = bytes.slice(whole);
      if (!whole) continue;
      const samples = new Float32Array(bytes.slice(0, whole).buffer);
      const buffer = context.createBuffer(channels, samples.length / channels, rateHz);
      for (let side = 0; side < channels; side++) {
        const line = buffer.getChannelData(side);
        for (let at = 0; at < line.length; at++) line[at] = samples[at * channels + side] ?? 0;
      }
      const source = context.createBufferSource();
      source.buffer = buffer;
      source.connect(context.destination);
      // After a gap it restarts, with the same delay.
      next = Math.max(next, context.currentTime + (next > context.currentTime ? 0 : LEAD_S));
      source.start(next);
      next += buffer.duration;
    }
  } finally {
    if (!signal.aborted) setTimeout(close, Math.max(0, next - context.currentTime) * 1000);
  }
}
