/** Live level with the good stretch in felt, large enough for the far side of the room. */
export function LevelBar({
  dbfs,
  good,
  big = false,
}: {
  dbfs: number
  good: readonly [number, number]
  big?: boolean
}) {
  const share = (db: number) => Math.min(Math.max((db + 84) / 84, 0), 1) * 100
  const word = levelWord(dbfs, good)
  return (
    <div
      role="meter"
      aria-label="Level"
      aria-valuemin={-84}
      aria-valuemax={0}
      aria-valuenow={Math.round(dbfs)}
      aria-valuetext={`${dbfs.toFixed(0)} dBFS, ${word}`}
    >
      <div
        className={`relative overflow-hidden rounded-full border border-line-strong bg-floor ${big ? 'h-9' : 'h-6'}`}
      >
        <div
          className="absolute inset-y-0 bg-felt-soft"
          style={{ left: `${share(good[0])}%`, right: `${100 - share(good[1])}%` }}
        />
        <div className="absolute inset-y-0 w-px bg-felt" style={{ left: `${share(good[0])}%` }} />
        <div className="absolute inset-y-0 w-px bg-felt" style={{ left: `${share(good[1])}%` }} />
        <div
          className={`absolute inset-y-1.5 left-1 rounded-full ${word === 'too hot' ? 'bg-bounce' : 'bg-ink'}`}
          style={{ width: `max(${share(dbfs)}% - 8px, 4px)` }}
        />
      </div>
      <p className={`mt-1 text-ink-2 ${big ? 'text-head' : 'text-small'}`}>
        <strong className="text-ink">{word}</strong> · peak{' '}
        {dbfs <= -119 ? 'none yet' : `${dbfs.toFixed(0).replace('-', '−')} dBFS`} · good is{' '}
        {good[0].toString().replace('-', '−')} to {good[1].toString().replace('-', '−')}
      </p>
    </div>
  )
}

const levelWord = (dbfs: number, good: readonly [number, number]) =>
  dbfs > -0.5 ? 'too hot' : dbfs > good[1] ? 'a little hot' : dbfs >= good[0] ? 'good' : 'quiet'
