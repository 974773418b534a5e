import { beforeEach, expect, test, vi } from 'vitest'
import { ApiError, queryClient } from './client'
import { useSending } from './change'

vi.stubGlobal('window', globalThis)
vi.stubGlobal('document', { body: { children: [] } })
beforeEach(() => queryClient.clear())

const problem = (status: number, more: object) => new ApiError(status, { detail: 'It did not go.', ...more })

test('a double tap is sent under one key, the next thing under another', async () => {
  const keys: string[] = []
  const sending = useSending()
  const send = async (key: string): Promise<number> => keys.push(key)
  await Promise.all([sending.run(send), sending.run(send)])
  await sending.run(send)
  expect(keys[0]).toBe(keys[1])
  expect(keys[2]).not.toBe(keys[0])
  expect(sending.busy).toBe(false)
})

test('what failed goes again under the same key', async () => {
  const keys: string[] = []
  const sending = useSending()
  const fail = async (key: string): Promise<never> => {
    keys.push(key)
    throw problem(422, { errors: [{ field: 'width', message: 'A bed is wider than that.' }] })
  }
  expect(await sending.run(fail)).toBeNull()
  expect([sending.trouble, sending.wrong, sending.busy]).toEqual([
    'It did not go.',
    { width: 'A bed is wider than that.' },
    false,
  ])
  expect(await sending.run(async (key) => keys.push(key))).toBe(2)
  expect(keys[0]).toBe(keys[1])
  expect([sending.trouble, sending.wrong]).toEqual(['', {}])
})

test('a key that stands for something else is changed for a new one', async () => {
  const keys: string[] = []
  const made = await useSending().run(async (key) => {
    keys.push(key)
    if (keys.length === 1) throw problem(409, { type: 'key-taken' })
    return 'made'
  })
  expect(made).toBe('made')
  expect(new Set(keys).size).toBe(2)
})

test('somebody else was faster', async () => {
  const sending = useSending()
  await sending.run(async () => {
    throw problem(409, { type: 'stale' })
  })
  expect(sending.stale).toBe(true)
  await sending.run(async () => 1)
  expect(sending.stale).toBe(false)
})

test('what is shown is asked for again, but for what was taken away', async () => {
  const asked: string[] = []
  for (const route of ['/api/workshop', '/api/visits/{visit_id}', '/api/visits/{visit_id}/offset'])
    queryClient.setQueryData([route], 1)
  queryClient.getQueryCache().subscribe((event) => {
    if (event.type === 'updated' && event.action.type === 'invalidate')
      asked.push(String(event.query.queryKey[0]))
  })
  await useSending({ gone: ['/api/visits/'] }).run(async () => 1)
  expect(asked).toEqual(['/api/workshop'])
})
