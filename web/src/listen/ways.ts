export type Way = 'browser' | 'import' | 'rig'
export const WAY_WORDS: Record<Way, string> = { rig: 'simulated', browser: 'recorded here', import: 'file' }
