/** Passes on what the microphone gives, with its peak, in pieces of about 20 ms. */
const PIECE = 1024;

class Capture extends AudioWorkletProcessor {
  private piece = new Float32Array(PIECE);
  private filled = 0;

  process(inputs: Float32Array[][]): boolean {
    const channel = inputs[0]?.[0];
    if (channel)
      for (const sample of channel) {
        this.piece[this.filled++] = sample;
        if (this.filled === PIECE) {
          this.port.postMessage(this.piece, [this.piece.buffer]);
          this.piece = new Float32Array(PIECE);
          this.filled = 0;
        }
      }
    return true;
  }
}

registerProcessor("capture", Capture);
