// @vitest-environment jsdom
import { cleanup, render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, describe, expect, it, vi } from 'vitest'

vi.mock('../api/queries', () => ({
  readLength: vi.fn((text: string) =>
    text.includes('cm')
      ? Promise.resolve(parseFloat(text) / 100)
      : Promise.reject(new Error(`'${text}' is no length.`)),
  ),
}))
import { readLength } from '../api/queries'
import { setUnits } from '../state/units'
import { LengthField, NumberField } from './fields'

setUnits('metric')
afterEach(() => {
  cleanup()
  vi.clearAllMocks()
})
const typed = async (label: string | RegExp, text: string) => {
  const field = screen.getByLabelText(label)
  await userEvent.clear(field)
  await userEvent.type(field, text)
  return field
}

describe('a length', () => {
  it('that is plain counts the moment its field is left, without asking', async () => {
    const change = vi.fn()
    render(<LengthField label="Length" metres={3} onChange={change} />)
    ;(await typed('Length', '4,25')).blur()
    expect(change).toHaveBeenCalledWith(4.25)
    expect(readLength).not.toHaveBeenCalled()
  })
  it('in other words is read by the server', async () => {
    const change = vi.fn()
    render(<LengthField label="Length" metres={3} onChange={change} />)
    await typed('Length', '362 cm{Enter}')
    await waitFor(() => expect(change).toHaveBeenCalledWith(3.62))
  })
  it('that is none is refused at its field, with nothing lost', async () => {
    const change = vi.fn()
    render(<LengthField label="Length" metres={3} onChange={change} />)
    await typed('Length', 'long{Enter}')
    expect((await screen.findByRole('alert')).textContent).toContain('is no length')
    expect(screen.getByLabelText('Length')).toHaveProperty('value', 'long')
    expect(change).not.toHaveBeenCalled()
  })
  it('that cannot be there says why', async () => {
    const change = vi.fn()
    render(<LengthField label="Length" metres={3} onChange={change} check={() => 'Keep inside.'} />)
    await typed('Length', '9{Enter}')
    expect((await screen.findByRole('alert')).textContent).toBe('Keep inside.')
    expect(change).not.toHaveBeenCalled()
  })
  it('that was not touched changes nothing', () => {
    const change = vi.fn()
    render(<LengthField label="Length" metres={3} onChange={change} />)
    screen.getByLabelText('Length').focus()
    screen.getByLabelText('Length').blur()
    expect(change).not.toHaveBeenCalled()
  })
})

describe('a number', () => {
  it('may be written with a comma, a true minus and its unit', async () => {
    const change = vi.fn()
    render(<NumberField label="Gain" unit="dB" value={0} low={-30} high={30} onChange={change} />)
    await typed(/Gain/, '−6,5 dB{Enter}')
    expect(change).toHaveBeenCalledWith(-6.5)
  })
  it('outside its bounds is refused with the bounds', async () => {
    const change = vi.fn()
    render(<NumberField label="Gain" unit="dB" value={0} low={-30} high={30} onChange={change} />)
    await typed(/Gain/, '99{Enter}')
    expect(screen.getByRole('alert').textContent).toContain('-30 to 30 dB')
    expect(change).not.toHaveBeenCalled()
  })
})
