/** Asks the host for a table of albedo: hundredths of the index; 0 reflected, 1 both from outside, 2 both from inside. */
// @ts-ignore: decorator
@external('env', 'makeTable')
declare function makeTable(key: i32, which: i32): u32

export let mirrorTable: usize = 0
export let fuzzTable: usize = 0

export function setTables(mirror: usize, fuzz: usize): void {
  mirrorTable = mirror
  fuzzTable = fuzz
}

export function tableOf(list: usize, ior: f64, which: i32): usize {
  const key = <i32>Math.floor(ior * 100 + 0.5)
  const at = list + ((<usize>key) << 2)
  let table = load<u32>(at)
  if (table == 0) {
    table = makeTable(key, which)
    store<u32>(at, table)
  }
  return table
}
