import { expect, test } from 'vitest'
import { useFollowing, useLatest } from './latest'

const later = <T>() => {
  let give!: (value: T) => void
  let refuse!: (why: Error) => void
  const promise = new Promise<T>((yes, no) => ((give = yes), (refuse = no)))
  return { promise, give, refuse }
}

test('an older answer that comes last counts no more', async () => {
  const latest = useLatest()
  const [first, second] = [later<string>(), later<string>()]
  const old = latest.run(() => first.promise)
  const now = latest.run(() => second.promise)
  second.give('second')
  first.give('first')
  expect(await now).toBe('second')
  expect(await old).toBeUndefined()
  expect(latest.busy).toBe(false)
})

test('what an overtaken question failed of is not said', async () => {
  const latest = useLatest()
  const [first, second] = [later<string>(), later<string>()]
  const old = latest.run(() => first.promise)
  const now = latest.run(() => second.promise)
  first.refuse(new Error('too late to matter'))
  expect(await old).toBeUndefined()
  expect(latest.trouble).toBe('')
  expect(latest.busy).toBe(true)
  second.refuse(new Error('It did not go.'))
  expect(await now).toBeUndefined()
  expect(latest.trouble).toBe('It did not go.')
})

test('a dropped question leaves nothing behind', async () => {
  const latest = useLatest()
  const asked = later<number>()
  const answer = latest.run(() => asked.promise)
  latest.drop()
  expect(latest.busy).toBe(false)
  asked.give(3)
  expect(await answer).toBeUndefined()
})

test('of many wishes under way only the newest is asked after the first', async () => {
  const asked: number[] = []
  const seen: number[] = []
  let wish = 0
  const answer = later<void>()
  const following = useFollowing(
    async () => {
      const mine = wish
      asked.push(mine)
      await answer.promise
      return mine
    },
    (value) => seen.push(value),
  )
  const end = following.follow()
  for (wish = 1; wish < 6; wish++) void following.follow()
  wish = 6
  void following.follow()
  answer.give()
  await end
  expect(asked).toEqual([0, 6])
  expect(seen).toEqual([0, 6])
  expect(following.busy).toBe(false)
})

test('after a failure it goes on asking', async () => {
  let fails = true
  const seen: string[] = []
  const following = useFollowing(
    async () => {
      if (fails) throw new Error('No.')
      return 'yes'
    },
    (value) => seen.push(value),
  )
  await following.follow()
  expect(following.trouble).toBe('No.')
  fails = false
  await following.follow()
  expect([following.trouble, seen]).toEqual(['', ['yes']])
})
