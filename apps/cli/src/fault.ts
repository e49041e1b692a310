/** Something wrong with what was given: told on standard error, exit code 1. */
export class InputFault extends Error {}
/** Something wrong with how it was asked: exit code 2. */
export class UsageFault extends Error {}
