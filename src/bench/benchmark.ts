/** One line of the benchmark: a ratio measured in one run against a named baseline. */
export interface BenchmarkLine {
  name: string
  /** How many times better than the baseline; more is better. */
  ratio: number
  ours: number
  baseline: number
  unit: string
  note: string
}

export interface Benchmark {
  name: string
  /** Lines all at the end, or each as soon as it is there. */
  run: () => Promise<BenchmarkLine[]> | AsyncIterable<BenchmarkLine>
}

export const secondsOf = async (work: () => unknown): Promise<number> => {
  const started = performance.now()
  await work()
  return (performance.now() - started) / 1000
}

/** The best of several runs: what the machine can do when nothing else is in the way. */
export async function bestSecondsOf(times: number, work: () => unknown): Promise<number> {
  let best = Number.POSITIVE_INFINITY
  for (let i = 0; i < times; i++) best = Math.min(best, await secondsOf(work))
  return best
}

export const round = (value: number, digits = 3): number => Number(value.toPrecision(digits))
