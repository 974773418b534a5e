import { expect, it, vi } from 'vitest'

it('goes once however many answers say so, and again after coming back', async () => {
  const assign = vi.fn()
  const shown: ((how: { persisted: boolean }) => void)[] = []
  vi.stubGlobal('window', {
    location: { assign },
    addEventListener: (_: string, done: (how: { persisted: boolean }) => void) => shown.push(done),
  })
  const { askForCode } = await import('./entry')
  askForCode()
  askForCode()
  expect(assign.mock.calls).toEqual([['/pair']])
  // shown for the first time, while it goes already
  shown[0]!({ persisted: false })
  askForCode()
  expect(assign).toHaveBeenCalledTimes(1)
  shown[0]!({ persisted: true })
  askForCode()
  expect(assign).toHaveBeenCalledTimes(2)
  vi.unstubAllGlobals()
})
