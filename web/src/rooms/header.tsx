import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router-dom'
import { type Saving, useRoom } from '../state/room'
import { setUnits, useUnits } from '../state/units'
import { toggleTheme } from '../state/theme'
import { Button } from '../ui/button'
import { DrawingSheet } from './drawing-sheet'

const SAVING_WORDS: Record<Saving['state'], string> = {
  saved: 'saved',
  pending: 'saving soon',
  saving: 'saving',
  failed: 'not saved',
  'taken-back': 'saved',
  conflict: 'changed elsewhere',
}

export function Header({ onHelp }: { onHelp: () => void }) {
  const { id, document, trying, saving, undo, redo, undoLabel, redoLabel } = useRoom()
  const units = useUnits()
  const navigate = useNavigate()
  const [drawn, setDrawn] = useState(false)
  return (
    <header className="flex min-h-14 items-center gap-4 border-b border-line px-5 max-lg:gap-2 max-lg:px-3 max-lg:py-1">
      <Link to="/" className="font-display text-title font-bold tracking-tight whitespace-nowrap max-lg:text-head">
        <span className="max-sm:hidden">Keen Quiet</span>
        <img src="/mark.svg" alt="Keen Quiet" className="size-7 sm:hidden" />
      </Link>
      <div className="flex min-w-0 flex-1 items-baseline gap-3">
        <h1 className="truncate text-head font-semibold">{document.name}</h1>
        <p className="min-w-0 truncate text-small text-ink-2 max-sm:hidden" data-testid="status" aria-live="polite">
          {trying ? `trying: ${trying.name} · ` : ''}
          {SAVING_WORDS[saving.state]}
        </p>
      </div>
      <div className="flex items-center gap-0.5">
        <Button
          small
          look="quiet"
          disabled={!undoLabel}
          onClick={undo}
          aria-label={undoLabel ? `Undo: ${undoLabel}` : 'Undo'}
          title={undoLabel ? `Undo: ${undoLabel}` : 'Undo'}
        >
          <Arrow />
        </Button>
        <Button
          small
          look="quiet"
          disabled={!redoLabel}
          onClick={redo}
          aria-label={redoLabel ? `Redo: ${redoLabel}` : 'Redo'}
          title={redoLabel ? `Redo: ${redoLabel}` : 'Redo'}
        >
          <Arrow flipped />
        </Button>
        <Menu>
          <MenuButton className="rounded-full px-3 py-1.5 text-note font-semibold hover:bg-floor">More ▾</MenuButton>
          <MenuItems
            anchor="bottom end"
            className="z-50 min-w-56 rounded-xl border border-line bg-card p-1 shadow-card"
          >
            <Item onClick={() => void navigate('/')}>All rooms</Item>
            <Item
              onClick={() =>
                void navigate(document.project ? `/places/${encodeURIComponent(document.project)}` : '/places')
              }
            >
              Which place?
            </Item>
            <Item onClick={() => setDrawn(true)}>Print or save the drawing</Item>
            <Item href={`/api/rooms/${id}/bundle`}>Export this room (.kq.zip)</Item>
            <Item onClick={() => setUnits(units === 'metric' ? 'imperial' : 'metric')}>
              {units === 'metric' ? 'Show feet and inches' : 'Show metres'}
            </Item>
            <Item onClick={toggleTheme}>Light or dark</Item>
            <Item onClick={onHelp}>Keys (?)</Item>
          </MenuItems>
        </Menu>
      </div>
      <Button
        look="main"
        onClick={() => void navigate(`/rooms/${id}/listen`)}
        className="max-lg:min-h-8 max-lg:px-3 max-lg:text-small"
      >
        <span className="max-sm:hidden">Take a reading</span>
        <span className="sm:hidden">Read</span>
      </Button>
      {drawn ? <DrawingSheet onClose={() => setDrawn(false)} /> : null}
    </header>
  )
}

function Item({ children, onClick, href }: { children: React.ReactNode; onClick?: () => void; href?: string }) {
  const look = 'block w-full rounded-lg px-3 py-1.5 text-left text-note data-focus:bg-felt-soft'
  return (
    <MenuItem>
      {href ? (
        <a href={href} className={look}>
          {children}
        </a>
      ) : (
        <button onClick={onClick} className={look}>
          {children}
        </button>
      )}
    </MenuItem>
  )
}

const Arrow = ({ flipped = false }: { flipped?: boolean }) => (
  <svg width="18" height="18" viewBox="0 0 18 18" aria-hidden style={flipped ? { transform: 'scaleX(-1)' } : undefined}>
    <path
      d="M6.5 3.5L3 7l3.5 3.5M3 7h7.5a4 4 0 0 1 0 8H8"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.8"
      strokeLinecap="round"
      strokeLinejoin="round"
    />
  </svg>
)
