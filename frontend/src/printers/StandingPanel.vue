<script setup lang="ts">
// All that is known of a printer, whether it still holds, and why not.
import { useStanding } from '@/api/shown'
import type { Column } from '@/components/rows'
import { ago, asDay } from '@/shell/format'

const props = defineProps<{ printer: number }>()
const { data } = useStanding(() => props.printer)
const COLUMNS: Column<NonNullable<typeof data.value>['things'][number]>[] = [
  { key: 'name', title: 'Known', says: (one) => one.name },
  { key: 'from', title: 'From', says: (one) => ago(one.at) },
  { key: 'now', title: 'Now', says: (one) => one.word },
]
</script>

<template>
  <section v-if="data?.things.length" class="sheet stack" aria-label="What still holds">
    <h2>What still holds</h2>
    <DataTable still :rows="data.things" :columns="COLUMNS" row-key="thing" name="what-holds">
      <template #from="{ row }"
        ><span :title="asDay(row.at)">{{ ago(row.at) }}</span></template
      >
      <template #now="{ row }">
        <div :data-thing="row.thing" :class="row.state">
          <p class="state">
            <svg viewBox="0 0 24 24" width="20" height="20" aria-hidden="true">
              <path v-if="row.state === 'holds'" d="M5 12.5l4.5 4.5L19 7" class="sign" />
              <path
                v-else-if="row.state === 'doubtful'"
                d="M8.5 9a3.5 3.5 0 1 1 5 3.2c-1 .5-1.5 1-1.5 2.3M12 18.5v.5"
                class="sign"
              />
              <path v-else d="M6 6l12 12M18 6L6 18" class="sign" />
            </svg>
            <b>{{ row.word }}</b>
          </p>
          <p v-for="why in row.reasons" :key="why" class="small">{{ why }}</p>
        </div>
      </template>
    </DataTable>
  </section>
</template>

<style scoped>
.state {
  display: flex;
  gap: 6px;
  align-items: center;
}
.sign {
  fill: none;
  stroke: currentcolor;
  stroke-width: 2.4;
}
.holds .state {
  color: var(--good);
}
.doubtful .state {
  color: var(--mild);
}
.gone .state {
  color: var(--bad);
}
td,
th {
  vertical-align: top;
}
</style>
