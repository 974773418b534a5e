import { expect, it, vi } from 'vitest'

it('goes once however many answers say so, and again after coming back', async () => {
  const assign = vi.fn()
  const shown: (() => void)[] = []
  vi.stubGlobal('window', {
    location: { assign },
    addEventListener: (_: string, done: () => void) => shown.push(done),
  })
  const { askForCode } = await import('./entry')
  askForCode()
  askForCode()
  expect(assign.mock.calls).toEqual([['/pair']])
  shown[0]!()
  askForCode()
  expect(assign).toHaveBeenCalledTimes(2)
  vi.unstubAllGlobals()
})
