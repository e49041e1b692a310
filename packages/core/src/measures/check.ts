/** A finding that tells the artist what is going wrong and what would mend it. */
export interface Check {
  id: string
  title: string
  text: string
  /** What would mend it at once: values to put into the document. */
  mend?: { label: string; edits: { path: (string | number)[]; value: unknown }[] }
}
