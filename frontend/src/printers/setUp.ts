// A set-up being typed: kept over a reload, drawn by the server's proposals, stored, and compared where somebody else
// was faster.
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch, type Ref } from 'vue'
import { useRouter } from 'vue-router'
import { ask, call, useApiQuery } from '@/api/ask'
import { useSending } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { useDraft } from '@/shell/draft'
import { parseNumber } from '@/shell/format'
import { differ } from './differences'
import { BESIDE } from './more'
import { asBody, asText, barred, emptySetUp, placed, text, type SetUpText, type Support } from './setUpText'

export function useSetUp(id: Ref<number | null>) {
  const router = useRouter()
  const { data: threads } = useApiQuery('/api/threads', {}, { fixed: true })
  const now = ref<SetUpText>(emptySetUp())
  const reach = ref<Schemas['Rectangle'] | null>(null)
  const bed = ref<Schemas['Bed'] | null>(null)
  const errors = ref<Record<string, string>>({})
  const trouble = ref('')
  const loadError = ref('')
  const ready = ref(false)
  const theirs = ref<Schemas['PrinterOut'] | null>(null)

  function take(printer: Schemas['PrinterOut']): void {
    now.value = asText(printer)
    reach.value = printer.probe_kind === 'none' ? null : printer.probe_reach
    bed.value = printer.bed
  }

  // half a set-up survives a reload, another page and a server that was away
  const { kept } = useDraft<{ text: string }>(`set-up-${id.value ?? 'new'}`, { text: '' })
  const found = ref(false)
  let begun = ''
  watch(
    () => ready.value && JSON.stringify(now.value),
    (typed) => typed && begun && (kept.value = { text: typed === begun ? '' : typed }),
  )
  function beginAgain(): void {
    kept.value = { text: '' }
    window.location.reload()
  }
  async function load(): Promise<void> {
    try {
      if (id.value === null) await suggest()
      else take((await ask('/api/printers/{printer_id}', { printer_id: id.value })).printer)
      begun = JSON.stringify(now.value)
      if (kept.value.text) {
        now.value = { ...emptySetUp(), ...(JSON.parse(kept.value.text) as SetUpText) }
        found.value = true
        await suggest()
      }
      ready.value = true
    } catch (e) {
      loadError.value = sentence(e)
    }
  }

  const pitchOf = (name: string): string =>
    text(threads.value?.threads.find((t) => t.name === name)?.pitch ?? null)
  async function suggest(): Promise<void> {
    const { form, more, screwCount } = now.value
    const width = parseNumber(form.width)
    const depth = parseNumber(form.depth)
    if (width === null || depth === null) return
    const beside = BESIDE.includes(more.probe_kind)
    try {
      const answer = await call(
        'post',
        '/api/suggestions',
        {},
        {
          width,
          depth,
          origin: form.origin,
          plate_width: parseNumber(form.plate_width),
          plate_depth: parseNumber(form.plate_depth),
          screws: screwCount === 'pads' ? 4 : screwCount,
          probe_dx: beside ? (parseNumber(more.probe_dx) ?? 0) : 0,
          probe_dy: beside ? (parseNumber(more.probe_dy) ?? 0) : 0,
          keep_off: barred(more),
        },
      )
      bed.value = answer.bed
      reach.value = more.probe_kind === 'none' ? null : answer.probe_reach
      if (!now.value.ownPlaces) lay(answer.screws)
    } catch {
      // the size is not one yet; it is said when the person saves
    }
  }
  /** Put what carries the plate where the server proposes it. */
  function lay(places: { name: string; x: number; y: number }[]): void {
    const { form, more, screwCount, thread } = now.value
    const at = places.map((s) => ({ name: s.name, x: text(s.x), y: text(s.y) }))
    more.pads = screwCount === 'pads' ? at.map((s) => ({ ...s, foils: [] })) : []
    const pitch = form.screws[0]?.pitch || pitchOf(thread) || '0.7'
    form.screws = screwCount === 'pads' ? [] : at.map((s) => ({ ...s, thread, pitch }))
  }
  const suggestSoon = useDebounceFn(suggest, 150)
  watch(
    () => {
      const { form, more } = now.value
      const size = [form.width, form.depth, form.origin, form.plate_width, form.plate_depth]
      return JSON.stringify([size, more.probe_kind, more.probe_dx, more.probe_dy, barred(more)])
    },
    () => ready.value && void suggestSoon(),
  )
  function chooseCount(count: Support): void {
    now.value.screwCount = count
    now.value.ownPlaces = false
    void suggest()
  }
  function chooseThread(name: string): void {
    now.value.thread = name
    for (const screw of now.value.form.screws) {
      screw.thread = name
      if (name !== 'own') screw.pitch = pitchOf(name)
    }
  }
  watch(threads, () => now.value.form.screws.forEach((s) => (s.pitch ||= pitchOf(s.thread))))

  const screws = computed(() => placed(now.value.form.screws))
  const pads = computed(() => placed(now.value.more.pads))
  function move(name: string, x: number, y: number): void {
    const { form, more } = now.value
    const post = form.screws.find((s) => s.name === name) ?? more.pads.find((p) => p.name === name)
    if (!post) return
    now.value.ownPlaces = true
    Object.assign(post, { x: String(x), y: String(y) })
  }

  function collect(): Schemas['PrinterIn'] | null {
    const { body, errors: wrong } = asBody(now.value)
    errors.value = wrong
    return body
  }
  // a new one sent twice would be two printers
  const saving = useSending({ patient: id.value !== null })
  async function save(): Promise<void> {
    trouble.value = ''
    const body = collect()
    if (!body) return void (trouble.value = 'Something is missing; see the marked fields.')
    const mine = id.value
    const at = { printer_id: mine ?? 0 }
    const { version } = now.value
    const saved = await saving.run(
      () =>
        mine === null
          ? call('post', '/api/printers', {}, body)
          : call('put', '/api/printers/{printer_id}', at, { ...body, version: version! }),
      mine === null ? `${body.name} is set up.` : 'The set-up is saved.',
    )
    if (saved) {
      begun = ''
      kept.value = { text: '' }
      return void (await router.push(`/printers/${saved.id}`))
    }
    if (saving.stale) return void (theirs.value = (await ask('/api/printers/{printer_id}', at)).printer)
    trouble.value = saving.trouble
    Object.assign(errors.value, saving.wrong)
  }

  const differences = computed(() => {
    const mine = theirs.value ? collect() : null
    return theirs.value && mine ? differ(mine, theirs.value) : []
  })
  function takeTheirs(): void {
    take(theirs.value!)
    theirs.value = null
  }
  async function keepMine(): Promise<void> {
    now.value.version = theirs.value!.version
    theirs.value = null
    await save()
  }
  void load()
  return {
    ...{ now, bed, reach, errors, trouble, loadError, ready, found, saving, threads, screws, pads },
    ...{ theirs, differences, takeTheirs, keepMine, beginAgain, chooseCount, chooseThread, move, save },
  }
}
