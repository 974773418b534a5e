// What fits the words that somebody types to go somewhere.
export interface Goal {
  key: string
  name: string
  says: string
  kind: string
  to?: string
  act?: () => void
}

const plain = (text: string): string => text.toLowerCase().normalize('NFD').replace(/\p{M}/gu, '')

/** How well a goal fits: every word begins a word of its name, or stands somewhere in what it says; null when not. */
export function fit(goal: Pick<Goal, 'name' | 'says' | 'kind'>, words: string[]): number | null {
  const name = plain(goal.name)
  const whole = plain(`${goal.name} ${goal.says} ${goal.kind}`)
  let score = 0
  for (const word of words) {
    if (name.startsWith(word)) score += 4
    else if (name.split(/[^\p{L}\p{N}]+/u).some((part) => part.startsWith(word))) score += 3
    else if (name.includes(word)) score += 2
    else if (whole.includes(word)) score += 1
    else return null
  }
  return score
}

/** The goals that fit, best first; those that fit alike keep their order. */
export function fitting<T extends Goal>(goals: T[], text: string, most = 12): T[] {
  const words = plain(text).split(/\s+/).filter(Boolean)
  if (!words.length) return goals.slice(0, most)
  return goals
    .map((goal) => ({ goal, score: fit(goal, words) }))
    .filter((one): one is { goal: T; score: number } => one.score !== null)
    .sort((a, b) => b.score - a.score)
    .slice(0, most)
    .map((one) => one.goal)
}
