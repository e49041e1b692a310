/** The code with which a process ends that cannot write a take as it was chosen; it has said why. */
export const UNWRITABLE = 3
