/** A reporter: the ten slowest files of a run, at the end, so that what grows is seen. */
export default class Slowest {
  onRunComplete(_contexts, { testResults }) {
    if (testResults.length < 2) return;
    const seconds = testResults
      .map(({ testFilePath, perfStats: { runtime } }) => [
        runtime / 1000,
        testFilePath.replace(`${process.cwd()}/`, ''),
      ])
      .sort(([one], [other]) => other - one);
    process.stderr.write('\nSlowest files:\n');
    for (const [time, path] of seconds.slice(0, 10))
      process.stderr.write(`  ${time.toFixed(1).padStart(6)} s  ${path}\n`);
  }
}
