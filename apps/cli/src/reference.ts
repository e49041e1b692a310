import type { Description, Parameter } from '@tangle/core'

const TITLES: Record<Description['group'], string> = {
  document: 'Document',
  births: 'Births',
  influences: 'Influences',
}

/** The reference page: every kind and its parameters, from their declarations. */
export function referencePage(kinds: Description[]): string {
  const groups = [...new Set(kinds.map((kind) => kind.group))]
  const parts = groups.map((group) =>
    [`## ${TITLES[group]}`, ...kinds.filter((kind) => kind.group === group).map(section)].join('\n\n'),
  )
  const head = '# Reference\n\nMade from the declarations by `./tangle describe --page`; do not edit by hand.'
  return [head, ...parts].join('\n\n')
}

function section(kind: Description): string {
  const rows = Object.entries(kind.parameters).map(
    ([name, p]) => `| \`${name}\` | ${p.label} | ${valueOf(p)} | ${p.help}${whenOf(p)} |`,
  )
  return [
    `### ${kind.label} (\`${kind.kind}\`)`,
    `${kind.help}.${kind.source ? ` Source: ${kind.source}.` : ''}`,
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
      return `a ${p.to}`
    case 'amount':
      return '`{burst, at}` or `{rate, from, to, cap}`'
    default: {
      const unit = p.unit ? ` ${p.unit}` : ''
      const standard =
        p.default === null ? 'none' : typeof p.default === 'object' ? JSON.stringify(p.default) : p.default
      const keyed = 'keyable' in p && p.keyable ? '; keyable' : ''
      return `${p.range[0]} to ${p.range[1]}${unit}; ${standard}${keyed}`
    }
  }
}
