import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react'
import { download, pngOf, standalone } from './save'

/** A plot saved as drawing, picture or figures. */
export function SaveMenu({
  svg,
  fileName,
  csv,
  width,
  height,
}: {
  svg: React.RefObject<SVGSVGElement | null>
  fileName: string
  csv: () => string
  width: number
  height: number
}) {
  const save = async (kind: 'svg' | 'png' | 'csv') => {
    if (kind === 'csv') return download(new Blob([csv()], { type: 'text/csv' }), `${fileName}.csv`)
    const text = standalone(svg.current!)
    if (kind === 'svg') return download(new Blob([text], { type: 'image/svg+xml' }), `${fileName}.svg`)
    download(await pngOf(text, width, height), `${fileName}.png`)
  }
  return (
    <Menu>
      <MenuButton className="whitespace-nowrap rounded-full px-2 py-0.5 text-small font-semibold text-ink-2 hover:bg-floor hover:text-ink">
        Save ▾
      </MenuButton>
      <MenuItems anchor="bottom end" className="z-50 rounded-xl border border-line bg-card p-1 shadow-card">
        {(['svg', 'png', 'csv'] as const).map((kind) => (
          <MenuItem key={kind}>
            <button
              onClick={() => void save(kind)}
              className="block w-full rounded-lg px-3 py-1.5 text-left text-note data-focus:bg-felt-soft"
            >
              {{ svg: 'Drawing (SVG)', png: 'Picture (PNG)', csv: 'Figures (CSV)' }[kind]}
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  )
}
