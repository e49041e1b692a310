import { choice, reference } from './parameters.ts'

/** A mesh cut by another. */
export const CUT = {
  by: reference({ label: 'Cut by', help: 'The mesh that cuts; it may move, bend and be hidden', to: 'mesh' }),
  keep: choice({
    label: 'Keep',
    help: 'What is outside of it, or what both share',
    default: 'rest',
    options: { rest: 'the rest', common: 'the common part' },
  }),
}
