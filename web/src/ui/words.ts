/** The text with its first letter large. */
export const capital = (text: string) => `${text[0]?.toUpperCase() ?? ''}${text.slice(1)}`

/** As many whole words of a name as fit; the first of them cut when it alone does not. */
export function fitting(name: string, most: number): string {
  if (name.length <= most) return name
  const cut = name.slice(0, most + 1)
  return cut.includes(' ') ? cut.slice(0, cut.lastIndexOf(' ')) : name.slice(0, most)
}
