/** The part of jStat that tests use as a reference. */
declare module 'jstat' {
  const jstat: {
    beta: {
      /** The chance that a share is at most `x`. */
      cdf(x: number, alpha: number, beta: number): number
      /** The share below which it lies with a chance of `chance`. */
      inv(chance: number, alpha: number, beta: number): number
    }
  }
  export default jstat
}
