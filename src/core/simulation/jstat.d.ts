/** The part of jstat that is used: it brings no types of its own. */
declare module 'jstat' {
  const jstat: {
    /** Student's distribution; `inv` is its quantile at `p` with `freedom` degrees of freedom. */
    studentt: { inv(p: number, freedom: number): number };
    /** The normal distribution: the share below `at`. */
    normal: { cdf(at: number, mean: number, deviation: number): number };
    /** The share of a chi-squared distribution below `at`. */
    chisquare: { cdf(at: number, freedom: number): number };
  };
  export default jstat;
}
