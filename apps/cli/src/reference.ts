import type { Description, Parameter } from '@tangle/core'

const TITLES: Record<Description['group'], string> = {
  document: 'Document',
  deformations: 'Deformations of a mesh',
  masks: 'Masks',
  births: 'Births',
  cues: 'Cues (`when`)',
  goals: 'Goals',
  influences: 'Influences',
  responses: 'What responses read',
}

/** The reference page: every kind and its parameters, from their declarations. */
export function referencePage(kinds: Description[]): string {
  const groups = [...new Set(kinds.map((kind) => kind.group))]
  const parts = groups.map((group) =>
    group === 'responses'
      ? responsesOf(kinds)
      : [`## ${TITLES[group]}`, ...kinds.filter((kind) => kind.group === group).map(section)].join('\n\n'),
  )
  const head = '# Reference\n\nMade from the declarations by `./tangle describe --page`; do not edit by hand.'
  return [head, ...parts].join('\n\n')
}

const responsesOf = (kinds: Description[]): string =>
  [
    `## ${TITLES.responses}`,
    ['| from | what it reads |', '| --- | --- |']
      .concat(kinds.filter((k) => k.group === 'responses').map((k) => `| \`${k.kind}\` | ${k.help} |`))
      .join('\n'),
  ].join('\n\n')

function section(kind: Description): string {
  const rows = Object.entries(kind.parameters).map(
    ([name, p]) => `| \`${name}\` | ${p.label} | ${valueOf(p)} | ${p.help}${whenOf(p)} |`,
  )
  return [
    `### ${kind.label} (\`${kind.kind}\`)`,
    `${kind.help}.${kind.source ? ` Source: ${kind.source}.` : ''}`,
    ...(kind.pitfall ? [`_When it goes wrong:_ ${kind.pitfall}`] : []),
    ['| key | label | value | what it does |', '| --- | --- | --- | --- |', ...rows].join('\n'),
  ].join('\n\n')
}

const whenOf = ({ when }: Parameter): string =>
  when
    ? ` (when ${Object.entries(when)
        .map(([key, value]) => `\`${key}\` is ${value}`)
        .join(', ')})`
    : ''

function valueOf(p: Parameter): string {
  switch (p.type) {
    case 'choice':
      return `${Object.keys(p.options).join(' or ')}; ${p.default}`
    case 'reference':
      return `a ${p.to}${p.absent === undefined ? '' : `; ${p.absent}`}`
    case 'amount':
      return '`{burst, at}`, `{rate, from, to, cap}` or `{swept, mask, level, from, to}`'
    case 'curve':
      return `[x, y, ease] from ${p.x.range.join(' to ')}; ${JSON.stringify(p.default)}`
    case 'ramp':
      return `a ramp or \`{stops}\`; ${JSON.stringify(p.default)}`
    case 'origin':
      return '`{ball, radius}`, `{plane, normal}`, `{points}` or `{mask}`'
    case 'strokes':
      return '`[{brush, radius, strength, points}]`'
    case 'path':
      return `points [x, y, z], from 2 to 1000; ${JSON.stringify(p.default)}`
    case 'colour':
      return `"#rrggbb"; ${p.default}`
    case 'text':
      return `at most ${p.most} letters; ${p.default}`
    default: {
      const unit = p.unit ? ` ${p.unit}` : ''
      const standard =
        'absent' in p && p.absent !== undefined && p.type === 'number'
          ? p.absent
          : p.default === null
            ? 'none'
            : typeof p.default === 'object'
              ? JSON.stringify(p.default)
              : p.default
      const keyed =
        ('keyable' in p && p.keyable ? '; keyable' : '') +
        ('responsive' in p && p.responsive ? '; takes responses' : '')
      return `${p.range[0]} to ${p.range[1]}${unit}; ${standard}${keyed}`
    }
  }
}
