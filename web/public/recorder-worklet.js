// Hands raw input samples to the page, one block at a time, and never alters them.
class Recorder extends AudioWorkletProcessor {
  process(inputs) {
    const channels = inputs[0]
    if (channels && channels.length > 0) this.port.postMessage(channels.map((channel) => channel.slice()))
    return true
  }
}
registerProcessor('keen-quiet-recorder', Recorder)
