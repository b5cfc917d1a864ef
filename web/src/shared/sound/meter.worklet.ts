import { Meter, type MeterFilters } from "./meter";

// What an AudioWorklet finds around it; the type library of pages does not know it.
declare const sampleRate: number;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
  constructor(options?: unknown);
}
declare function registerProcessor(
  name: string,
  made: new (options: { readonly processorOptions: MeterFilters }) => AudioWorkletProcessor,
): void;

const SILENT = new Float32Array(128);

/** Measures the loudness of its input, ten times a second. */
class MeterProcessor extends AudioWorkletProcessor {
  #meter: Meter;

  constructor(options: { readonly processorOptions: MeterFilters }) {
    super(options);
    const filters = options.processorOptions;
    this.#meter = new Meter(sampleRate, filters);
    // Each new playback restarts the measurement.
    this.port.onmessage = () => {
      this.#meter = new Meter(sampleRate, filters);
    };
  }

  process(inputs: readonly (readonly Float32Array[])[]): boolean {
    const [left = SILENT, right = left] = inputs[0] ?? [];
    const reading = this.#meter.process(left, right);
    if (reading) this.port.postMessage(reading);
    return true;
  }
}

registerProcessor("loudness-meter", MeterProcessor);
