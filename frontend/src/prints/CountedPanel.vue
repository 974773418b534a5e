<script setup lang="ts">
// What the prints of a printer add up to: hours of its nozzle and its sheets, and what failures cost.
import { computed } from 'vue'
import { useApiQuery } from '@/api/ask'
import { asDate, count } from '@/shell/format'

const props = defineProps<{ printer: number }>()
const { data } = useApiQuery('/api/printers/{printer_id}/counted', () => ({ printer_id: props.printer }))
const told = computed(() => data.value && (data.value.sheets.length > 0 || data.value.nozzle_hours > 0))
const hours = (value: number): string => `${value < 10 ? value.toFixed(1) : Math.round(value)} h`
</script>

<template>
  <section v-if="data" class="sheet stack" aria-labelledby="counted">
    <h2 id="counted">Counted</h2>
    <p v-if="!told" class="quiet">
      Tell of a print with <RouterLink :to="`/printers/${printer}/print`">I print now</RouterLink>, and its
      hours are counted here.
    </p>
    <template v-else>
      <dl>
        <div>
          <dt>Nozzle</dt>
          <dd>
            {{ hours(data.nozzle_hours) }}
            <span class="quiet small">{{
              data.nozzle_since
                ? `since it was changed, ${asDate(data.nozzle_since)}`
                : 'as far as it was told'
            }}</span>
            <b v-if="data.nozzle_hours >= data.nozzle_due">: look at its tip</b>
          </dd>
        </div>
        <div v-for="one in data.sheets" :key="one.name">
          <dt>{{ one.name }}</dt>
          <dd>
            {{ hours(one.hours) }}
            <span class="quiet small"
              >{{ count(one.prints, 'print') }}{{ one.let_go ? `, ${one.let_go} let go` : '' }}</span
            >
          </dd>
        </div>
      </dl>
      <p class="small">{{ data.sentence }}</p>
      <p class="small"><RouterLink to="/prints/results">What came of all prints</RouterLink></p>
    </template>
  </section>
</template>

<style scoped>
dl {
  margin: 0;
}
dl div {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 3fr);
  gap: 10px;
  padding: 5px 0;
  border-top: 1px solid var(--line);
}
dd {
  margin: 0;
}
</style>
