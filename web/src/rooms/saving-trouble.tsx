import { useRoom } from '../state/room'
import { Button } from '../ui/button'
import { Notice } from '../ui/notice'

/** A save that failed or met another window's: said plainly, with neither side lost. */
export function SavingTrouble() {
  const { saving, keepMine, takeTheirs, flush } = useRoom()
  if (saving.state === 'failed')
    return (
      <div className="px-4">
        <Notice
          tone="stop"
          title={`Not saved: ${saving.title}`}
          body={`${saving.cure} Your change is kept in this browser; it is tried again by itself.`}
        >
          <Button small className="mt-1.5" onClick={() => void flush().catch(() => undefined)}>
            Save again
          </Button>
        </Notice>
      </div>
    )
  if (saving.state === 'taken-back')
    return (
      <div className="px-4" data-testid="taken-back">
        <Notice
          tone="care"
          title={`That cannot be: ${saving.title}`}
          body={`${saving.cure} It was taken back${saving.what ? ` (${saving.what})` : ''}; all else is saved.`}
        />
      </div>
    )
  if (saving.state !== 'conflict') return null
  return (
    <div className="px-4" data-testid="conflict">
      <Notice
        tone="stop"
        title="This room was changed in another window."
        body="Both versions are safe: the other is saved, yours is on this page. Which one should stand? Undo brings the other one back."
      >
        <div className="mt-1.5 flex gap-2">
          <Button small look="warm" onClick={() => void keepMine()}>
            Keep what I see here
          </Button>
          <Button small onClick={() => void takeTheirs()}>
            Take the other window’s
          </Button>
        </div>
      </Notice>
    </div>
  )
}
