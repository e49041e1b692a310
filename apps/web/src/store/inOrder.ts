/** As JSON, whatever order its keys are in: the database has one of its own. */
export const inOrder = (document: unknown): string =>
  JSON.stringify(document, (_, value: unknown) =>
    typeof value === 'object' && value !== null && !Array.isArray(value)
      ? Object.fromEntries(Object.entries(value).toSorted(([a], [b]) => (a < b ? -1 : 1)))
      : value,
  )
