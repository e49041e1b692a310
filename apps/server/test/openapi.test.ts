/** The description of the API tells of every route that there is, and of no other. */
import Ajv from 'ajv'
import type { House } from '../src/routes/context.ts'
import { apiRouter } from '../src/application.ts'
import { addresses, openApi } from '../src/openapi.ts'

interface Operation {
  summary: string
  operationId: string
  parameters: { name: string; in: string }[]
  requestBody?: { content: Record<string, { schema?: object; example?: unknown }> }
  responses: Record<string, { description: string }>
}
const paths = openApi().paths as Record<string, Record<string, Operation>>
const operations = Object.entries(paths).flatMap(([path, all]) =>
  Object.entries(all).map(([method, one]) => ({ path, method, ...one })),
)

test('it tells of all routes', () => {
  const house = { config: {}, source: { getRepository: () => ({}) }, queue: {} } as unknown as House
  const routes = apiRouter(house).stack.flatMap(({ path, methods }) =>
    methods.filter((method) => method !== 'HEAD').map((method) => `${method} ${path}`),
  )
  // the router and the description call what stands in an address by other names
  const plain = (address: string): string => address.replaceAll(/:\w+|\{\w+\}/g, '*')
  const told = addresses().map((address) => plain(address.replace(' ', ' /api')))
  expect([...new Set(told)].sort()).toEqual([...new Set(routes.map(plain))].sort())
  expect(operations).toHaveLength(addresses().length)
})

test('every operation has a name of its own, words, and what is answered', () => {
  expect(new Set(operations.map(({ operationId }) => operationId)).size).toBe(operations.length)
  for (const { summary, path, parameters, responses } of operations) {
    expect(summary.length).toBeGreaterThan(5)
    const named = parameters.filter((one) => one.in === 'path').map(({ name }) => `{${name}}`)
    expect(path.match(/\{\w+\}/g) ?? []).toEqual(named)
    expect(Object.keys(responses).some((status) => status.startsWith('2'))).toBe(true)
  }
})

test('examples are what the schemas of their requests take; the schemas refuse what is not', () => {
  const components = openApi().components as { schemas: Record<string, object> }
  const check = (schema: object, value: unknown): unknown =>
    new Ajv().compile({ ...schema, components })(JSON.parse(JSON.stringify(value)))
  const bodies = operations.flatMap(({ requestBody, operationId }) => {
    const body = requestBody?.content['application/json']
    return body?.schema ? [{ operationId, schema: body.schema, example: body.example }] : []
  })
  expect(bodies.length).toBeGreaterThan(5)
  for (const { operationId, schema, example } of bodies) expect([operationId, check(schema, example)]).toEqual([operationId, true]) // prettier-ignore
  const saved = bodies.find(({ operationId }) => operationId.startsWith('PUT'))!
  expect(
    check(saved.schema, { version: 'one', document: (saved.example as { document: object }).document }),
  ).toBe(false)
  expect(check(saved.schema, { version: 1, document: { format: 'other' } })).toBe(false)
  expect(check(saved.schema, { version: 1 })).toBe(false)
})
