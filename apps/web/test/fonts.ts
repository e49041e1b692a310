/** Stands in for what the bundler makes of engine/fonts.ts. */
export const FONTS: Record<string, string> = {}
