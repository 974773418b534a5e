<script setup lang="ts">
// Sums about the extruder: steps per mm, what has to be melted, how lines lie side by side.
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useApiQuery } from '@/api/ask'
import { sentence } from '@/api/client'
import { figure, mm, parseNumber } from '@/shell/format'
import { useTrail } from '@/shell/trail'

const steps = ref({ steps: '', asked: '100', measured: '' })
const lines = ref({ nozzle: '0.4', width: '0.46', height: '0.20', speed: '40', melts: '' })
const read = (texts: Record<string, string>): Record<string, number | null> =>
  Object.fromEntries(Object.entries(texts).map(([k, v]) => [k, parseNumber(v)]))
const stepsWish = refDebounced(
  computed(() => read(steps.value)),
  250,
)
const linesWish = refDebounced(
  computed(() => read(lines.value)),
  250,
)
const complete = <Name extends string>(
  wish: Record<string, number | null>,
  names: Name[],
): wish is Record<Name, number> => names.every((n) => wish[n] !== null && wish[n] !== undefined)
const { data: made, error: stepsError } = useApiQuery(
  '/api/extrusion/steps',
  () => (complete(stepsWish.value, ['steps', 'asked', 'measured']) ? stepsWish.value : null),
  { keep: true },
)
const { data: lain, error: linesError } = useApiQuery(
  '/api/extrusion/lines',
  () => {
    const { nozzle, melts, ...needed } = linesWish.value
    return complete(needed, ['width', 'height', 'speed'])
      ? { ...needed, ...(nozzle == null ? {} : { nozzle }), ...(melts == null ? {} : { melts }) }
      : null
  },
  { keep: true },
)
const SIGNS = { good: '●', near: '◆', beyond: '▲' } as const
const ready = computed(() => complete(stepsWish.value, ['steps', 'asked', 'measured']))
useTrail(() => [{ name: 'Cases', to: '/cases' }, { name: 'Extrusion sums' }])
</script>

<template>
  <h1>Extrusion sums</h1>
  <div class="worktable even">
    <section class="sheet stack" aria-label="Steps per mm">
      <h2>Does the right amount go in?</h2>
      <ol class="small">
        <li>Nozzle hot, filament in. Mark the filament with a pen 120 mm above the extruder.</li>
        <li>Ask the printer to push in 100 mm, slowly.</li>
        <li>Measure from the extruder to the mark. 120 mm less that is what went in.</li>
      </ol>
      <div class="three">
        <NumberField
          id="steps"
          v-model="steps.steps"
          label="Steps per mm now"
          term="steps"
          placeholder="93"
        />
        <NumberField id="asked" v-model="steps.asked" label="Asked for" unit="mm" />
        <NumberField id="measured" v-model="steps.measured" label="Went in" unit="mm" placeholder="96" />
      </div>
      <div aria-live="polite">
        <TroubleNote v-if="stepsError">{{ sentence(stepsError) }}</TroubleNote>
        <template v-else-if="made && ready"
          ><p class="big number">{{ made.new.toFixed(2) }} steps/mm</p>
          <p :class="{ caution: made.doubtful }">{{ made.sentence }}</p></template
        >
        <p v-else class="quiet">Fill in all three.</p>
      </div>
      <CautionNote>
        The nozzle is hot, and the drive turns by itself: keep fingers, hair and sleeves off it.
      </CautionNote>
    </section>
    <section class="sheet stack" aria-label="Lines and melting">
      <h2>Does the hot end keep up?</h2>
      <div class="three">
        <NumberField id="nozzle" v-model="lines.nozzle" label="Nozzle" unit="mm" />
        <NumberField id="width" v-model="lines.width" label="Line width" unit="mm" term="line_width" />
        <NumberField id="height" v-model="lines.height" label="Layer" unit="mm" />
        <NumberField id="speed" v-model="lines.speed" label="Speed" unit="mm/s" />
        <NumberField id="melts" v-model="lines.melts" label="Melts" unit="mm³/s" placeholder="8 to 12" />
      </div>
      <div aria-live="polite" class="stack">
        <TroubleNote v-if="linesError">{{ sentence(linesError) }}</TroubleNote>
        <template v-else-if="lain">
          <p class="big number" :class="lain.level">
            <span aria-hidden="true">{{ SIGNS[lain.level] }}</span> {{ figure(lain.flow, false, 1) }} mm³/s
          </p>
          <p>{{ lain.melting }}</p>
          <p>{{ lain.lines }}</p>
          <dl class="facts">
            <div>
              <dt>Spacing</dt>
              <dd>{{ mm(lain.spacing, false, 3) }}</dd>
            </div>
            <div v-if="lain.width_range">
              <dt>Usual first-layer width</dt>
              <dd>{{ figure(lain.width_range[0]!) }} to {{ mm(lain.width_range[1]!) }}</dd>
            </div>
          </dl>
        </template>
      </div>
      <p class="quiet small">
        Melting: a handbook value for PLA through brass, from memory. Measure your own and write it in.
      </p>
    </section>
  </div>
</template>

<style scoped>
h1 {
  margin-bottom: 14px;
}
.three {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 10px;
  align-items: end;
}
.big {
  font-size: 1.7rem;
  font-weight: 700;
}
.good {
  color: var(--good);
}
.near {
  color: var(--mild);
}
.beyond {
  color: var(--bad);
}
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
ol {
  margin: 0;
  padding-left: 20px;
}
@media (max-width: 520px) {
  .three {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
