export { createNodeMachine, defaultThreads } from './machine.ts'
export { bake, type BakedFrame } from '../shared/bake.ts'
export { computeTake, type TakeFrame } from './take.ts'
export { readMeshAside, type ReadAnswer } from './reading.ts'
