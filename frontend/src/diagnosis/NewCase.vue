<script setup lang="ts">
// A case in under a minute: what was seen, where, since when.
import { useDraft } from '@/shell/draft'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useApiQuery } from '@/api/ask'
import { useSubmit } from '@/api/change'
import { sentence, type Schemas } from '@/api/client'
import { usePrinter } from '@/api/shown'
import ReliefMap from '@/bed/ReliefMap.vue'
import AlarmNote from './AlarmNote.vue'
import HeardSigns from './HeardSigns.vue'
import SetupLine from './SetupLine.vue'
import TriedBefore from './TriedBefore.vue'
import SignList from './SignList.vue'
import { useTrail } from '@/shell/trail'

const route = useRoute()
const router = useRouter()
const printer = computed(() => Number(route.params.id))
const { data } = usePrinter(printer)
const { data: form, error } = useApiQuery('/api/printers/{printer_id}/case-form', () => ({
  printer_id: printer.value,
}))
// half a case survives a reload
const { kept: draft, clear } = useDraft(`case-${printer.value}`, {
  words: '',
  answers: {} as Record<string, Schemas['SignOut']['answer']>,
  place: null as Schemas['XY'] | null,
  circumstances: null as string[] | null,
  before: {} as Record<string, Schemas['BeforeIn']['came']>,
  setup: {} as Record<string, number | string | null>,
})
watch(
  form,
  (f) =>
    f &&
    draft.value.circumstances === null &&
    (draft.value.circumstances = f.circumstances.filter((c) => c.proposed).map((c) => c.key)),
  { immediate: true },
)
const chosen = computed({
  get: () => draft.value.circumstances ?? [],
  set: (v) => (draft.value.circumstances = v),
})
const open = useSubmit('post', '/api/printers/{printer_id}/cases', () => ({ printer_id: printer.value }))
async function begin(): Promise<void> {
  const signs = Object.entries(draft.value.answers)
    .filter(([, a]) => a !== 'unknown')
    .map(([sign, answer]) => ({ sign, answer }))
  if (!signs.length && !draft.value.words.trim())
    return void open.lacks('Say in your words what happened, or answer a sign.')
  const made = await open.submit({
    words: draft.value.words,
    place: draft.value.place,
    circumstances: chosen.value,
    signs,
    before: Object.entries(draft.value.before ?? {}).map(([what, came]) => ({ what, came })),
    setup: draft.value.setup as Schemas['SetupIn'],
    visit_id: data.value?.visits.find((v) => !v.ended_at)?.id ?? null,
  })
  if (!made) return void (open.trouble += ' Nothing you filled in is lost.')
  clear()
  await router.push(`/cases/${made.id}`)
}
function answer(sign: string, value: Schemas['SignOut']['answer']): void {
  draft.value.answers = { ...draft.value.answers, [sign]: value }
}
function tried(what: string, came: string): void {
  const rest = { ...draft.value.before }
  delete rest[what]
  draft.value.before = came === 'unknown' ? rest : { ...rest, [what]: came as Schemas['BeforeIn']['came'] }
}
const before = computed(
  () => form.value?.before.map((b) => ({ ...b, came: draft.value.before?.[b.key] ?? null })) ?? [],
)
const setup = computed(() => {
  const given = draft.value.setup ?? {}
  const settings = form.value!.setup.settings.map((s) =>
    s.key in given ? { ...s, value: given[s.key] ?? null } : s,
  )
  const line = settings
    .filter((s) => s.value !== null && s.value !== '')
    .map((s) => `${s.name.toLowerCase()} ${s.value} ${s.unit}`.trim())
    .join(', ')
  return { ...form.value!.setup, settings, line: Object.keys(given).length ? line : form.value!.setup.line }
})
const heard = ref<string[]>([])
// what the words speak of cannot wait to be confirmed where it is an alarm
const seen = (sign: string): boolean =>
  draft.value.answers[sign] === 'yes' || (!draft.value.answers[sign] && heard.value.includes(sign))
const alarm = computed(() => form.value?.alarms.find((a) => a.raised_by.some((row) => row.every(seen))))
const place = (x: number, y: number): void => {
  const bed = data.value!.printer.bed
  draft.value.place = {
    x: Math.min(Math.max(x, bed.x_min), bed.x_max),
    y: Math.min(Math.max(y, bed.y_min), bed.y_max),
  }
}
useTrail(() => [
  { name: data.value?.printer.name ?? 'Printer', to: `/printers/${printer.value}` },
  { name: 'New case' },
])
</script>

<template>
  <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
  <el-form v-else-if="form && data" class="stack" @submit.prevent="begin">
    <h1>What does not stick on {{ data.printer.name }}?</h1>
    <AlarmNote
      v-if="alarm"
      :key="alarm.key"
      :alarm="alarm"
      :printer="printer"
      :visit="data.visits.find((v) => !v.ended_at)?.id ?? null"
    />
    <div class="worktable">
      <div class="stack">
        <section class="sheet stack" aria-label="What was seen">
          <TextField
            id="words"
            v-model="draft.words"
            label="In your own words"
            maxlength="500"
            placeholder="Corners of the sieve frame lift after an hour"
          />
          <p class="quiet small">Answer what you looked at. What you leave open says little.</p>
          <HeardSigns
            :words="draft.words"
            :answers="draft.answers"
            @answer="answer"
            @heard="heard = $event"
          />
          <SignList :groups="form.groups" :answers="draft.answers" :first="form.first" @answer="answer" />
        </section>
      </div>
      <div class="stack">
        <section class="sheet stack" aria-label="Where">
          <h2>Where on the bed?</h2>
          <ReliefMap
            :bed="data.printer.bed"
            :spots="draft.place ? [{ ...draft.place, text: 'here', current: true }] : []"
            :screws="data.printer.screws"
            pickable
            label="The bed: tap where it does not stick"
            @pick="place"
          />
          <div class="row spread small">
            <span class="quiet">{{
              draft.place
                ? `x ${draft.place.x}, y ${draft.place.y} mm`
                : 'Tap the place; leave it out when it is everywhere.'
            }}</span><el-button v-if="draft.place" size="small" @click="draft.place = null"
              >Everywhere</el-button
            >
          </div>
        </section>
        <section class="sheet stack" aria-label="Since when">
          <h2>What changed since it last held?</h2>
          <el-checkbox-group v-model="chosen" class="circumstances">
            <el-checkbox v-for="c in form.circumstances" :key="c.key" :value="c.key"
              >{{ c.name }}<span v-if="c.proposed" class="quiet small"> (in the logbook)</span></el-checkbox
            >
          </el-checkbox-group>
        </section>
        <SetupLine :setup="setup" @correct="draft.setup = { ...(draft.setup ?? {}), ...$event }" />
        <section class="sheet" aria-label="Tried already">
          <TriedBefore :items="before" @tell="tried" />
        </section>
        <TroubleNote v-if="open.trouble">{{ open.trouble }}</TroubleNote>
        <p>
          <el-button type="primary" size="large" native-type="submit" :loading="open.busy"
            >Open the case</el-button
          >
        </p>
      </div>
    </div>
  </el-form>
  <WaitBox v-else says="Opening …" kind="page" />
</template>

<style scoped>
.circumstances {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 220px), 1fr));
  gap: 4px 12px;
}
.circumstances label {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 40px;
}
.circumstances input {
  width: 20px;
  height: 20px;
  flex: none;
}
</style>
