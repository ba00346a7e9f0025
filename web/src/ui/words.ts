/** The text with its first letter large. */
export const capital = (text: string) => `${text[0]?.toUpperCase() ?? ''}${text.slice(1)}`
