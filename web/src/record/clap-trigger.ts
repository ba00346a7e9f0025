/** Hears a clap: a block that jumps far over what was there before. Arithmetic only; the microphone feeds it. */
export class ClapTrigger {
  private usual: number | null = null

  constructor(
    private readonly jumpDb = 18,
    private readonly leastDbfs = -34,
  ) {}

  /** Peak of the next block of some milliseconds; true when it was a clap. [dBFS] */
  hears(peakDbfs: number): boolean {
    if (this.usual === null) {
      this.usual = peakDbfs
      return false
    }
    const clap = peakDbfs > this.leastDbfs && peakDbfs > this.usual + this.jumpDb
    // slowly up, faster down: a clap must not raise its own yardstick
    this.usual += (peakDbfs - this.usual) * (peakDbfs > this.usual ? 0.02 : 0.1)
    return clap
  }
}
