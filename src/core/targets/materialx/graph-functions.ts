/** Nodes of MaterialX that are a function of single numbers. */

export const UNARY: Record<string, (a: number) => number> = {
  absval: Math.abs,
  sign: Math.sign,
  floor: Math.floor,
  ceil: Math.ceil,
  round: Math.round,
  fract: a => a - Math.floor(a),
  sin: Math.sin,
  cos: Math.cos,
  tan: Math.tan,
  asin: Math.asin,
  acos: Math.acos,
  sqrt: a => Math.sqrt(Math.max(0, a)),
  ln: a => Math.log(Math.max(a, 1e-12)),
  exp: Math.exp,
}
export const BINARY: Record<string, { in1: number; in2: number; of: (a: number, b: number) => number }> = {
  add: { in1: 0, in2: 0, of: (a, b) => a + b },
  subtract: { in1: 0, in2: 0, of: (a, b) => a - b },
  multiply: { in1: 0, in2: 1, of: (a, b) => a * b },
  divide: { in1: 0, in2: 1, of: (a, b) => (b === 0 ? 0 : a / b) },
  modulo: { in1: 0, in2: 1, of: (a, b) => (b === 0 ? 0 : a - b * Math.floor(a / b)) },
  power: { in1: 0, in2: 1, of: (a, b) => Math.max(0, a) ** b },
  safepower: { in1: 0, in2: 1, of: (a, b) => Math.sign(a) * Math.abs(a) ** b },
  min: { in1: 0, in2: 0, of: Math.min },
  max: { in1: 0, in2: 0, of: Math.max },
  atan2: { in1: 0, in2: 1, of: Math.atan2 },
}
export const COMPARE: Record<string, (a: number, b: number) => boolean> = {
  ifgreater: (a, b) => a > b,
  ifgreatereq: (a, b) => a >= b,
  ifequal: (a, b) => a === b,
}
export const SWIZZLE: Record<string, (c: Float32Array) => number> = {
  r: c => c[0],
  x: c => c[0],
  g: c => c[1] ?? c[0],
  y: c => c[1] ?? c[0],
  b: c => c[2] ?? c[0],
  z: c => c[2] ?? c[0],
  a: c => c[3] ?? 1,
  w: c => c[3] ?? 1,
  '0': () => 0,
  '1': () => 1,
}
