import { ownName } from '../state/attribute.ts'
import { attributeOf, floats } from '../state/columns.ts'
import type { ResponseKind } from './response.ts'

/** A number as it is, the length of a vector, the brightness of a colour (luminance, ITU-R BT.709). */
export const own: ResponseKind = {
  from: 'own',
  label: 'an attribute of its own',
  unit: '',
  usual: [0, 1],
  needs: 'attribute',
  write(out, { columns }, { attribute }) {
    // the schema sees to it that the attribute is named and there
    const name = ownName(attribute!)
    const values = floats(columns, name)
    const { width, files } = attributeOf(columns, name)
    if (width === 1) return void out.set(values)
    const colour = files?.usd.startsWith('color3f') ?? false
    for (let i = 0; i < out.length; i++) {
      const [x, y, z] = [values[i * 3]!, values[i * 3 + 1]!, values[i * 3 + 2]!]
      out[i] = colour ? 0.2126 * x + 0.7152 * y + 0.0722 * z : Math.sqrt(x * x + y * y + z * z)
    }
  },
}
