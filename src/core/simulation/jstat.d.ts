/** The part of jstat that is used: it brings no types of its own. */
declare module 'jstat' {
  const jstat: {
    /** Student's distribution; `inv` is its quantile at `p` with `freedom` degrees of freedom. */
    studentt: { inv(p: number, freedom: number): number };
  };
  export default jstat;
}
