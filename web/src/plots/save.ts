import type { Series } from './series'

/** CSV with a header that carries the units; one row per x of any series. */
export function csvOf(xName: string, series: readonly Series[]): string {
  const xs = [...new Set(series.flatMap((s) => s.points.map((p) => p[0])))].sort((a, b) => a - b)
  const maps = series.map((s) => new Map(s.points.map((p) => [p[0], p[1]])))
  const head = [xName, ...series.map((s) => `${s.name} [${s.unit}]`)].map(quoted).join(',')
  const rows = xs.map((x) =>
    [x, ...maps.map((m) => m.get(x) ?? '')].map((v) => (v === null ? '' : String(v))).join(','),
  )
  return [head, ...rows].join('\n') + '\n'
}

const quoted = (text: string) => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text)

/** A copy of a drawn plot that stands alone: theme colours and fonts written out. */
export function standalone(svg: SVGSVGElement): string {
  const copy = svg.cloneNode(true) as SVGSVGElement
  const style = getComputedStyle(document.documentElement)
  const resolved = new XMLSerializer()
    .serializeToString(copy)
    .replace(/var\((--[a-z0-9-]+)\)/g, (_, name: string) => style.getPropertyValue(name).trim() || '#000')
  const { width, height } = svg.viewBox.baseVal
  const paper = style.getPropertyValue('--card').trim()
  const ink = style.getPropertyValue('--ink').trim()
  return resolved
    .replace(/<svg[^>]*>/, (tag) => {
      const bare = tag.replace(/ (width|height|class|tabindex|style)="[^"]*"/g, '')
      return `${bare.replace('<svg', `<svg width="${width}" height="${height}"`)}<style>text{font-family:sans-serif;fill:${ink}}</style><rect width="100%" height="100%" fill="${paper}"/>`
    })
    .replace(/^<svg(?![^>]*xmlns=)/, '<svg xmlns="http://www.w3.org/2000/svg"')
}

export function download(content: Blob, name: string) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(content)
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 5000)
}

export async function pngOf(svgText: string, width: number, height: number, scale = 2): Promise<Blob> {
  const image = new Image()
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svgText)}`
  await image.decode()
  const canvas = document.createElement('canvas')
  canvas.width = width * scale
  canvas.height = height * scale
  canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height)
  return new Promise((done, fail) =>
    canvas.toBlob((blob) => (blob ? done(blob) : fail(new Error('The picture could not be made.')))),
  )
}
