/** Hands a file to whoever asked for it. */
export function saved(blob: Blob, name: string) {
  const address = URL.createObjectURL(blob)
  Object.assign(window.document.createElement('a'), { href: address, download: name }).click()
  setTimeout(() => URL.revokeObjectURL(address), 60_000)
}
