<script setup lang="ts">
// What came of a print: one tap where it held; where it did not, when, how and where, and a case filled in.
import { computed, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import { call, useApiQuery } from '@/api/ask'
import { send, useSending } from '@/api/change'
import type { Schemas } from '@/api/client'
import PathMap from '@/bed/PathMap.vue'
import { parseNumber } from '@/shell/format'

type Outcome = Schemas['PrintEndIn']['outcome']
const props = defineProps<{ print: Schemas['PrintOut'] }>()
const router = useRouter()
const chosen = ref<Outcome | null>(null)
const typed = reactive({
  how: undefined as NonNullable<Schemas['PrintEndIn']['how']> | undefined,
  minutes: '',
  place: null as Schemas['XY'] | null,
  note: '',
  case: true,
})
const letGo = computed(() => chosen.value === 'let_go')
const { data: path } = useApiQuery('/api/prints/{print_id}/path', () =>
  letGo.value && props.print.file_id ? { print_id: props.print.id } : null,
)
const sending = useSending()
const wrong = computed(() =>
  typed.minutes.trim() && parseNumber(typed.minutes) === null ? 'This is no number.' : '',
)
function choose(outcome: Outcome): void {
  chosen.value = outcome
  typed.case = outcome === 'let_go'
  if (outcome === 'held') void store()
  else
    typed.minutes = String(
      Math.round(outcome === 'let_go' ? props.print.usual_letting_go : props.print.usual_end),
    )
}
async function store(): Promise<void> {
  if (wrong.value) return
  const held = chosen.value === 'held'
  const made = await sending.run(
    (client_key) =>
      call(
        'post',
        '/api/prints/{print_id}/end',
        { print_id: props.print.id },
        {
          client_key,
          version: props.print.version,
          outcome: chosen.value!,
          minutes: held ? null : parseNumber(typed.minutes),
          how: (letGo.value && typed.how) || null,
          place: letGo.value ? typed.place : null,
          note: typed.note,
          case: !held && typed.case,
        },
      ),
    'Written down.',
    (ended) => send('post', '/api/prints/{print_id}/reopen', { print_id: ended.id }),
  )
  if (made?.case_id) await router.push(`/cases/${made.case_id}`)
}
</script>

<template>
  <section class="sheet stack" aria-labelledby="came">
    <h2 id="came">What came of it?</h2>
    <div class="outcomes" role="group" aria-label="What came of it">
      <el-button
        v-for="one in print.outcomes"
        :key="one.key"
        size="large"
        :type="one.key === 'held' && !chosen ? 'primary' : undefined"
        :aria-pressed="chosen === one.key"
        :loading="sending.busy && chosen === one.key"
        @click="choose(one.key as Outcome)"
        >{{ one.words }}</el-button
      >
    </div>
    <el-form v-if="chosen && chosen !== 'held'" class="stack" @submit.prevent="store">
      <template v-if="letGo">
        <el-radio-group v-model="typed.how" aria-label="How it let go" class="hows">
          <el-radio v-for="one in print.hows" :key="one.key" :value="one.key" border>{{
            one.words
          }}</el-radio>
        </el-radio-group>
        <p>Where? Tap the place; leave it out when it is everywhere or unknown.</p>
        <PathMap
          :bed="print.bed"
          :paths="path?.paths ?? []"
          :places="typed.place ? [typed.place] : []"
          pickable
          label="The bed from above: tap where it let go; by keyboard Enter, then the arrows"
          @pick="typed.place = $event"
        />
        <p v-if="typed.place" class="row spread small">
          <span>x {{ typed.place.x }}, y {{ typed.place.y }} mm</span
          ><el-button size="small" @click="typed.place = null">Not there</el-button>
        </p>
      </template>
      <NumberField
        id="end-minutes"
        v-model="typed.minutes"
        :label="letGo ? 'It let go so long after the start' : 'It ended so long after the start'"
        unit="min"
        :wrong="wrong"
        help="A guess from the looks; set it right if you know better."
      />
      <TextField id="end-note" v-model="typed.note" label="In your own words" maxlength="500" />
      <el-checkbox v-model="typed.case" label="Open a case with all of this" />
      <TroubleNote v-if="sending.trouble">{{ sending.trouble }}</TroubleNote>
      <p>
        <el-button type="primary" size="large" native-type="submit" :loading="sending.busy"
          >Write it down</el-button
        >
      </p>
      <CautionNote
        >Let bed and part cool before you take the part off. Blades away from your hand.</CautionNote
      >
    </el-form>
    <TroubleNote v-else-if="sending.trouble">{{ sending.trouble }}</TroubleNote>
  </section>
</template>

<style scoped>
.outcomes {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(140px, 1fr));
  gap: 8px;
}
.outcomes .el-button {
  margin: 0;
  min-height: 56px;
  white-space: normal;
}
.outcomes [aria-pressed='true'] {
  border: 3px solid var(--accent);
}
.hows {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 6px;
}
.hows .el-radio {
  margin: 0;
  min-height: 44px;
}
</style>
