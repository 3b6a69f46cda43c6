import { auditBenchmark } from './audit.bench'
import type { Benchmark } from './benchmark'
import { environmentBenchmark, largeEnvironmentBenchmark } from './environment.bench'
import { exportBenchmark } from './export.bench'
import { draftBenchmark, finalBenchmark } from './finals.bench'
import { importBenchmark } from './import.bench'
import { intakeBenchmark } from './intake.bench'
import { mockUpEditBenchmark, mockUpOpenBenchmark, mockUpRenderBenchmark } from './mock-up.bench'
import { buildBenchmark, placementsBenchmark, raysBenchmark } from './rays.bench'
import {
  batchBenchmark,
  memoryBenchmark,
  pathBenchmark,
  previewBenchmark,
  sharesBenchmark,
  threadsBenchmark,
} from './render.bench'
import { scrollBenchmark } from './scroll.bench'
import { searchBenchmark } from './search.bench'
import { serveBenchmark } from './serve.bench'
import { artistsBenchmark, loadBenchmark, similarBenchmark, suggestBenchmark, wallBenchmark } from './wall.bench'

const BENCHMARKS: readonly Benchmark[] = [
  raysBenchmark,
  buildBenchmark,
  placementsBenchmark,
  pathBenchmark,
  threadsBenchmark,
  previewBenchmark,
  sharesBenchmark,
  memoryBenchmark,
  batchBenchmark,
  draftBenchmark,
  finalBenchmark,
  environmentBenchmark,
  largeEnvironmentBenchmark,
  intakeBenchmark,
  importBenchmark,
  serveBenchmark,
  searchBenchmark,
  wallBenchmark,
  suggestBenchmark,
  similarBenchmark,
  artistsBenchmark,
  loadBenchmark,
  scrollBenchmark,
  auditBenchmark,
  exportBenchmark,
  mockUpOpenBenchmark,
  mockUpEditBenchmark,
  mockUpRenderBenchmark,
]

const wanted = process.argv.slice(2)
const unknown = wanted.filter(name => !BENCHMARKS.some(b => b.name === name))
if (unknown.length > 0) {
  process.stderr.write(`There is no benchmark ${unknown.join(', ')}. There are: ${BENCHMARKS.map(b => b.name).join(', ')}\n`)
  process.exitCode = 2
} else
  for (const benchmark of BENCHMARKS)
    if (wanted.length === 0 || wanted.includes(benchmark.name))
      for await (const line of await benchmark.run()) process.stdout.write(`${JSON.stringify(line)}\n`)
