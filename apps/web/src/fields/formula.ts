import jsep from 'jsep'

type Node = jsep.Expression & Record<string, unknown>

const CONSTANTS: Record<string, number> = { pi: Math.PI, e: Math.E }
const FUNCTIONS: Record<string, (...values: number[]) => number> = {
  sqrt: Math.sqrt,
  abs: Math.abs,
  sin: Math.sin,
  cos: Math.cos,
  tan: Math.tan,
  exp: Math.exp,
  log: Math.log,
  floor: Math.floor,
  ceil: Math.ceil,
  round: Math.round,
  min: Math.min,
  max: Math.max,
  mix: (a, b, t) => a! + (b! - a!) * t!,
  clamp: (x, low, high) => Math.min(Math.max(x!, low!), high!),
}
const OPERATORS: Record<string, (a: number, b: number) => number> = {
  '+': (a, b) => a + b,
  '-': (a, b) => a - b,
  '*': (a, b) => a * b,
  '/': (a, b) => a / b,
  '^': (a, b) => a ** b,
}
jsep.addBinaryOp('^', 11, true)

/** Units that may be typed, by the unit of the field: how many of the field's unit one of them is. */
const UNITS: Record<string, Record<string, number>> = {
  m: { mm: 0.001, cm: 0.01, m: 1, km: 1000 },
  'm/s': { 'cm/s': 0.01, 'm/s': 1, 'km/h': 1 / 3.6 },
  'm/s²': { 'm/s2': 1, 'm/s²': 1, g: 9.80665 },
  'kg/m³': { 'kg/m3': 1, 'kg/m³': 1, 'g/cm3': 1000, 'g/cm³': 1000 },
  g: { g: 1, 'm/s2': 1 / 9.80665, 'm/s²': 1 / 9.80665 },
  s: { ms: 0.001, s: 1, min: 60 },
  '°': { '°': 1, deg: 1, rad: 180 / Math.PI },
  '°/s': { '°/s': 1, rpm: 6 },
  '×': { '×': 1, '%': 0.01 },
  '': { '%': 0.01 },
}

/**
 * The value of what was typed into a number field: a number or a formula such as `24*3`, with a unit behind
 * it if need be (`20 cm` where the field counts metres). Throws a sentence when it has none.
 */
export function evaluate(text: string, unit = ''): number {
  const [rest, factor] = withoutUnit(narrow(text), unit)
  const value = valueOf(parse(plain(rest))) * factor
  if (!Number.isFinite(value)) throw new Error('That has no value')
  return value
}

/** With digits, signs and points as they are on a Western keyboard: others type them as wide as their letters (１．５), or a true minus. */
const narrow = (text: string): string =>
  text
    .replace(/[\uff08-\uff0f\uff10-\uff19]/g, (sign) => String.fromCharCode(sign.charCodeAt(0) - 0xfee0))
    .replaceAll('\u2212', '-')
    .replaceAll('\u3002', '.')
    .replaceAll('\u3000', ' ')

/** What stands before a unit that the field understands, and what one of that unit is. */
function withoutUnit(text: string, unit: string): [rest: string, factor: number] {
  const known = { ...UNITS[unit], ...(unit ? { [unit]: 1 } : {}) }
  const found = Object.keys(known)
    .sort((a, b) => b.length - a.length)
    .find((one) => {
      const before = text.trimEnd().slice(0, -one.length)
      // a unit stands behind a number or a bracket: the m of "max" is none
      return text.trimEnd().endsWith(one) && /[\d.)]\s*$/.test(before)
    })
  return found === undefined ? [text, 1] : [text.trimEnd().slice(0, -found.length), known[found]!]
}

/**
 * Takes out the spaces between thousands, reads a comma as a decimal point where no function is
 * called, and lets a minus apply to the whole power, as in mathematics: −3^2 is −9.
 */
function plain(text: string): string {
  const joined = text.replace(/(\d)[\s\u202f]+(?=\d)/g, '$1')
  const pointed = /[a-z]\s*\(/i.test(joined) ? joined : joined.replace(/(\d),(?=\d)/g, '$1.')
  return pointed.replace(/(^|[(,+*/-])\s*-\s*(?=[\w.]+\s*\^)/g, '$1(0-1)*')
}

function parse(text: string): Node {
  try {
    return jsep(text) as Node
  } catch {
    throw new Error('Type a number or a formula, such as 24*3')
  }
}

function valueOf(node: Node): number {
  switch (node.type) {
    case 'Literal':
      if (typeof node.value === 'number') return node.value
      break
    case 'Identifier':
      if ((node.name as string) in CONSTANTS) return CONSTANTS[node.name as string]!
      throw new Error(`There is no "${node.name as string}" here; pi and e are known`)
    case 'UnaryExpression': {
      const value = valueOf(node.argument as Node)
      if (node.operator === '-') return -value
      if (node.operator === '+') return value
      break
    }
    case 'BinaryExpression': {
      const operator = OPERATORS[node.operator as string]
      if (operator) return operator(valueOf(node.left as Node), valueOf(node.right as Node))
      break
    }
    case 'CallExpression': {
      const { name } = node.callee as Node
      const known = FUNCTIONS[name as string]
      if (known) return known(...(node.arguments as Node[]).map(valueOf))
      throw new Error(`There is no ${String(name)}(); known are ${Object.keys(FUNCTIONS).join(', ')}`)
    }
  }
  throw new Error('Type a number or a formula, such as 24*3')
}

/** A number as a field shows it: at most five digits that matter, thousands apart. */
export function shown(value: number): string {
  if (value !== 0 && Math.abs(value) < 0.001) return value.toExponential(1)
  const text = String(Number(value.toPrecision(5)))
  const [whole, part] = text.split('.') as [string, string | undefined]
  return whole.replace(/\B(?=(\d{3})+(?!\d))/g, '\u202f') + (part ? `.${part}` : '')
}
