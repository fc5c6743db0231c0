/** The part of jstat that is used: it brings no types of its own. */
declare module 'jstat' {
  const jstat: {
    /** Student's distribution; `inv` is its quantile at `p` with `freedom` degrees of freedom. */
    studentt: { inv(p: number, freedom: number): number };
    /** The normal distribution: the share below `at`. */
    normal: { cdf(at: number, mean: number, deviation: number): number };
    /** The beta distribution; `inv` is its quantile at `p`. */
    beta: { inv(p: number, alpha: number, beta: number): number };
    /** The binomial distribution: the chance of at most `at` of `n`. */
    binomial: { cdf(at: number, n: number, chance: number): number };
    /** The share of a chi-squared distribution below `at`. */
    chisquare: { cdf(at: number, freedom: number): number };
  };
  export default jstat;
}
