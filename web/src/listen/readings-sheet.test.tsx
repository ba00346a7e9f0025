// @vitest-environment jsdom
import { cleanup, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, describe, expect, it, vi } from 'vitest'
import type { ReadingSummary } from '../api/client'
import { aReading, aRoom, inRoom, Refusal, served } from '../testing/served'
import { ReadingsSheet } from './readings-sheet'
import { BigVerdict, Verdict } from './verdict'

vi.stubGlobal('ResizeObserver', class { observe() {} unobserve() {} disconnect() {} }) // prettier-ignore
afterEach(() => {
  cleanup()
  vi.restoreAllMocks()
})

const headline = (t_mid_s: number | null) => ({ said: `Fades in ${t_mid_s} s`, t_mid_s, c50_mid_db: null }) as never
let room: ReturnType<typeof aRoom>
let server: ReturnType<typeof served>
const opened = (readings: ReadingSummary[]) => {
  room = aRoom()
  server = served({
    'GET /api/catalogue': {
      edits: {},
      kinds: [
        { key: 'sweep', name: 'Sweep', averaged: true },
        { key: 'clap', name: 'Clap', averaged: false },
      ],
    },
    [`GET /api/rooms/${room.id}/readings`]: readings,
    'PATCH /api/readings/a': ({ body }: { body: object }) => ({ ...readings[0], ...body }),
  })
  return inRoom(room, <ReadingsSheet onChoose={() => undefined} onClose={() => undefined} />)
}
const tick = async (number: number) => userEvent.click((await screen.findAllByRole('checkbox'))[number]!)

describe('all readings', () => {
  it('averages repeated sweeps only, and tells a refusal', async () => {
    opened([aReading({ id: 'a' }), aReading({ id: 'b' }), aReading({ id: 'c', kind: 'clap' })])
    const average = await screen.findByRole('button', { name: 'Average the sweeps' })
    await tick(0)
    expect(average).toHaveProperty('disabled', true)
    await tick(1)
    expect(average).toHaveProperty('disabled', false)
    await tick(2)
    expect(average).toHaveProperty('disabled', true)
    await tick(2)
    server.routes[`POST /api/rooms/${room.id}/readings/average`] = new Refusal(422, {
      field: 'readings',
      reason: 'They stood 2 m apart.',
      cure: 'Repeat at one place.',
    })
    await userEvent.click(average)
    expect((await screen.findByRole('alert')).textContent).toContain('They stood 2 m apart.')
    expect(server.asked.at(-1)!.body).toEqual({ reading_ids: ['a', 'b'] })
  })
  it('keeps real and simulated decays apart, with the sample spread', async () => {
    opened([
      aReading({ id: 'a', headline: headline(0.3), mic_at: [1, 1, 1] }),
      aReading({ id: 'b', headline: headline(0.4), mic_at: [2, 1, 1] }),
      aReading({ id: 'c', headline: headline(0.9), simulated: true, way: 'rig' }),
      aReading({ id: 'd', headline: headline(0.8), counts: false }),
    ])
    // two values 0.1 apart: mean 0.35, sample deviation 0.1 / sqrt 2
    expect(await screen.findByText('Real: 2 decays from 2 places, 0.35 s in the middle, spread 0.07 s.')).toBeTruthy()
  })
  it('shows what an unknown value is, and what is set aside', async () => {
    opened([aReading({ id: 'a', counts: false, headline: headline(null), mic_at: [1.234, 2, 3] })])
    await screen.findByRole('checkbox')
    const line = screen.getAllByRole('row')[1]!.textContent
    expect(line).toContain('1.23 · 2.00 · 3.00')
    expect(line).toContain('–')
    expect(line).toContain('good, set aside')
  })
  it('shows one tag only when asked, and all again', async () => {
    opened([aReading({ id: 'a', tags: ['before'] }), aReading({ id: 'b', tags: ['after'] })])
    await userEvent.click(await screen.findByRole('button', { name: 'before' }))
    expect(screen.getAllByRole('row')).toHaveLength(2)
    await userEvent.click(screen.getByRole('button', { name: 'before' }))
    expect(screen.getAllByRole('row')).toHaveLength(3)
  })
  it('keeps words about a reading as typed, tags apart', async () => {
    opened([aReading({ id: 'a', note: 'old' })])
    await userEvent.click(await screen.findByRole('button', { name: /^Edit Sweep/ }))
    const note = screen.getByLabelText('Note')
    await userEvent.clear(note)
    await userEvent.type(note, 'door open')
    await userEvent.type(screen.getByLabelText('Tags, parted by commas'), 'x, y')
    await userEvent.click(screen.getByRole('button', { name: 'Keep these words' }))
    await waitFor(() => expect(server.of('PATCH', '/api/readings/a')).toHaveLength(1))
    expect(server.of('PATCH', '/api/readings/a')[0]!.body).toEqual({ note: 'door open', tags: ['x', ' y'] })
  })
})

describe('a verdict', () => {
  const reasons = [{ code: 'clipped', text: 'It clipped.', cure: 'Turn the gain down.' }]
  const shownIn = (reading: ReadingSummary, Part: typeof Verdict) => {
    room = aRoom()
    served({ 'GET /api/catalogue': { edits: {} } })
    return inRoom(room, <Part reading={reading} />)
  }
  it.each([Verdict, BigVerdict])('tells why a reading is not usable and what to do', (Part) => {
    const bad = aReading({ verdict: { usable: false, word: 'not usable', reasons } as never })
    const { container } = shownIn(bad, Part)
    expect(container.textContent).toMatch(/Not usable.*It clipped\. ?Turn the gain down\./)
    expect(container.textContent).not.toContain('Fades in')
  })
  it.each([Verdict, BigVerdict])('names the marks that stay as they were, and what the browser did', (Part) => {
    const reading = aReading({
      empty: [{ mark: 'boom', why: 'Its low end was buried in a tram.' }] as never,
      settings: { not_raw: ['noise suppression', 'echo cancelling'], unplugged: true } as never,
      simulated: true,
    })
    const { container } = shownIn(reading, Part)
    expect(container.textContent).toContain('Boom stays as it was. Its low end was buried in a tram.')
    expect(container.textContent).toContain('noise suppression and echo cancelling')
    expect(container.textContent).toContain('unplugged midway')
    expect(within(container).getByText(/simulated/)).toBeTruthy()
  })
})
