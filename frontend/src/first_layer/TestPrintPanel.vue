<script setup lang="ts">
// A test print as a file for the printer: drawn, counted and checked before it is used.
import type { paths } from '@/api/schema'
import { computed, ref } from 'vue'
import { useApiQuery } from '@/api/ask'
import { send, useSubmit } from '@/api/change'
import { ApiError, sentence, type Schemas } from '@/api/client'
import PrintMap from '@/bed/PrintMap.vue'
import { parseNumber, query } from '@/shell/format'

type TestPrintWish = NonNullable<paths['/api/visits/{visit_id}/test-print']['get']['parameters']['query']>
const props = defineProps<{
  visit: Schemas['VisitOut']
  kind: Schemas['TestPrintOut']['kind']
  more?: Partial<TestPrintWish>
  asks?: boolean
}>()
defineEmits<{ stops: [spots: Schemas['SpotOut'][]] }>()
const FILAMENTS = ['1.75', '2.85']
const filament = ref('1.75')
const open = ref(false)
const wish = computed<TestPrintWish>(() => ({
  kind: props.kind,
  filament: parseNumber(filament.value) ?? 1.75,
  ...props.more,
}))
const { data, error } = useApiQuery('/api/visits/{visit_id}/test-print', () =>
  open.value ? { visit_id: props.visit.id, ...wish.value } : null,
)
const minutes = computed(() =>
  data.value && data.value.minutes >= 1 ? `about ${Math.round(data.value.minutes)} min` : 'under a minute',
)
const walks = computed(() => props.kind === 'paper_walk' || props.kind === 'mesh_walk')
const unknown = computed(() => error.value instanceof ApiError && error.value.unknownGround)
const COMPENSATION = { on: 'on after homing', off: 'switched off', none: 'none' }

// a look with paper is written down like any change: what happens afterwards puts it out again
const note = useSubmit(
  'post',
  '/api/printers/{printer_id}/changes',
  () => ({ printer_id: props.visit.printer.id }),
  {
    said: 'Written down: paper moves everywhere at Z 0.15.',
    undo: (made) => send('delete', '/api/changes/{change_id}', { change_id: made.id }),
  },
)
const looked = () => note.submit({ what: 'clear', visit_id: props.visit.id })
const SUMMARY = {
  patches: 'Let the printer print the patches',
  ladder: 'Let the printer print this ladder',
  discs: 'Let the printer print these discs',
  mesh_walk: 'See the mesh at work',
  paper_walk: 'Let the printer stop at each place',
}
</script>

<template>
  <FoldPart class="test-print" @toggle="open = $event"
    ><template #title>{{ SUMMARY[kind] }}</template>
    <div v-if="error" class="stack">
      <TroubleNote>{{ sentence(error) }}</TroubleNote>
      <template v-if="unknown">
        <p>
          Bring the tip to Z&nbsp;=&nbsp;0.15&nbsp;mm over each corner and the middle, from above and slowly,
          with a strip of printing paper under it. Does the strip move at all of them?
        </p>
        <p><el-button :loading="note.busy" @click="looked">Yes, it moves everywhere</el-button></p>
        <CautionNote>
          The nozzle is hot. Use a strip longer than your hand, and stop at once when it is pinched.
        </CautionNote>
        <TroubleNote v-if="note.trouble">{{ note.trouble }}</TroubleNote>
      </template>
    </div>
    <div v-else-if="data" class="stack">
      <PrintMap
        :bed="visit.printer.bed"
        :patches="data.spots"
        :prime="data.prime"
        :walk="data.walk"
        :label="`${data.title}: ${data.does}`"
      />
      <p>{{ data.does }}</p>
      <dl class="facts">
        <div>
          <dt>Moving</dt>
          <dd>{{ minutes }}</dd>
        </div>
        <div v-if="!walks">
          <dt>Plastic</dt>
          <dd>
            {{
              data.grams === null
                ? `${(data.filament_length / 1000).toFixed(2)} m`
                : `${data.grams.toFixed(1)} g`
            }}
          </dd>
        </div>
        <div>
          <dt>Bed</dt>
          <dd>{{ data.bed_temperature }} °C</dd>
        </div>
        <div v-if="data.nozzle_temperature">
          <dt>Nozzle</dt>
          <dd>{{ data.nozzle_temperature }} °C</dd>
        </div>
        <div>
          <dt>Compensation</dt>
          <dd>{{ COMPENSATION[data.compensation] }}</dd>
        </div>
      </dl>
      <CautionNote v-if="data.compensation === 'off'">
        No mesh is known to hold in this printer, so the file switches compensation off.
      </CautionNote>
      <CautionNote v-for="one in data.cautions" :key="one">{{ one }}</CautionNote>
      <ol v-if="kind === 'paper_walk'" class="small stops">
        <li v-for="s in data.spots" :key="s.number">{{ s.name }}, at Z {{ s.z.toFixed(2) }} mm</li>
      </ol>
      <p v-if="asks">
        <el-button size="small" @click="$emit('stops', data.spots)"
          >Ask in this order, at these heights</el-button
        >
      </p>
      <ul class="small quiet made-for">
        <li v-for="one in data.made_for" :key="one">{{ one }}</li>
      </ul>
      <div class="row">
        <a
          class="download"
          :href="`/api/visits/${visit.id}/test-print.gcode?${query(wish)}`"
          :download="data.file"
          >Download {{ data.file }}</a
        >
        <RouterLink v-if="!walks" :to="`/printers/${visit.printer.id}/print?visit=${visit.id}&test=1`"
          >I print this now</RouterLink
        >
        <ChoiceField v-if="!walks" v-model="filament" label="Filament, mm" class="narrow">
          <el-option v-for="f in FILAMENTS" :key="f" :value="f" :label="f" />
        </ChoiceField>
      </div>
      <CautionNote>
        It heats, moves and ends cool by itself. Stay with it; if the tip scrapes, stop at once. The maker’s
        manual comes first: read the file’s head before the first use.
      </CautionNote>
    </div>
    <WaitBox v-else says="Working it out …" />
  </FoldPart>
</template>

<style scoped>
.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 22px;
  margin: 0;
}
.facts dt {
  font-size: 0.85rem;
  color: var(--ink-2);
}
.facts dd {
  margin: 0;
  font-weight: 650;
}
.made-for {
  margin: 0;
  padding-left: 1.2em;
}
.narrow {
  width: 6em;
}
.download {
  display: inline-block;
  padding: 10px 16px;
  border: 1px solid var(--accent);
  border-radius: var(--round);
  font-weight: 650;
  text-decoration: none;
}
</style>
