<script setup lang="ts">
// How the level wanders from visit to visit, and when to look again.
import { useApiQuery } from '@/api/ask'
import RunChart from '@/charts/RunChart.vue'
import { asDay } from '@/shell/format'

const props = defineProps<{ printer: number }>()
const { data } = useApiQuery('/api/printers/{printer_id}/drift', () => ({ printer_id: props.printer }))
</script>

<template>
  <section v-if="data?.found.length" class="sheet stack" aria-label="Drift">
    <h2><TermHint term="drift">How it loses its level</TermHint></h2>
    <p v-if="data.look_again" class="again">
      Look again around <b>{{ asDay(data.look_again) }}</b>
    </p>
    <p>{{ data.sentence }}</p>
    <div class="charts">
      <div>
        <h3>Tilt as each visit found it, mm</h3>
        <RunChart
          title="Tilt found at each visit"
          :values="data.found.map((f) => f.tilt)"
          :dates="data.found.map((f) => f.at)"
          :chart="data.tilt"
        />
      </div>
      <div>
        <h3>Flatness without tilt, mm</h3>
        <RunChart
          title="Flatness found at each visit"
          :values="data.found.map((f) => f.flatness)"
          :dates="data.found.map((f) => f.at)"
          :chart="data.flatness"
        />
      </div>
    </div>
    <p class="small quiet">{{ data.chart_sentence }} A diamond is out of the ordinary.</p>
  </section>
</template>

<style scoped>
.again {
  font-size: 1.15rem;
}
.charts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 380px), 1fr));
  gap: 12px 24px;
}
</style>
