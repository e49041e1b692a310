/** Loops turned about after compiling: the same turns, tested at the end of each. */
import binaryen from 'binaryen'
const { rotateLoops } = (await import('../../../scripts/rotateLoops.mjs' as string)) as {
  rotateLoops(text: string): string
}

/** Σ of the odd numbers below `count`, `rows` times: a loop in a loop, of which the inner one goes on early. */
const SUMS = `(module (func (export "sum") (param $count i32) (param $rows i32) (result i32)
  (local $i i32) (local $k i32) (local $all i32)
  (loop $rows-of
    (if (i32.lt_s (local.get $k) (local.get $rows)) (then
      (local.set $i (i32.const -1))
      (loop $each
        (if (i32.lt_s (local.tee $i (i32.add (local.get $i) (i32.const 1))) (local.get $count)) (then
          (br_if $each (i32.eqz (i32.and (local.get $i) (i32.const 1))))
          (local.set $all (i32.add (local.get $all) (local.get $i)))
          (br $each))))
      (local.set $k (i32.add (local.get $k) (i32.const 1)))
      (br $rows-of))))
  (local.get $all)))`

function sums(text: string): (count: number, rows: number) => number {
  const module = binaryen.parseText(text)
  expect(module.validate()).toBe(1)
  const instance = new WebAssembly.Instance(new WebAssembly.Module(module.emitBinary() as BufferSource))
  return instance.exports.sum as (count: number, rows: number) => number
}

test('a loop that has been turned about does as many turns, also none', () => {
  const turned = rotateLoops(SUMS)
  expect(turned.match(/\(br_if \$(each|rows-of) /g)).toHaveLength(2)
  expect(turned).not.toMatch(/\(br \$/)
  const [before, after] = [sums(SUMS), sums(turned)]
  for (const count of [-3, 0, 1, 2, 3, 8, 33])
    for (const rows of [-1, 0, 1, 4]) expect(after(count, rows)).toBe(before(count, rows))
  expect(after(8, 2)).toBe(32)
})

test.each([
  '(loop $a (nop) (br $a))',
  '(loop $a (if (x) (then (y))))',
  '(loop $a (if (x) (then (y) (br $b))))',
  '(loop $a (if (x) (then (y) (br $a)) (else (z))))',
  '(data (i32.const 0) "(loop $a (if \\"x\\")")',
])('%s stays as it is', (text) => expect(rotateLoops(text)).toBe(text))
