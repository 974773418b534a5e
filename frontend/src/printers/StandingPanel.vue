<script setup lang="ts">
// All that is known of a printer, whether it still holds, and why not.
import { useStanding } from '@/api/shown'
import { ago, asDay } from '@/shell/format'

const props = defineProps<{ printer: number }>()
const { data } = useStanding(() => props.printer)
</script>

<template>
  <section v-if="data?.things.length" class="sheet stack" aria-label="What still holds">
    <h2>What still holds</h2>
    <el-descriptions :column="1" border class="facts">
      <el-descriptions-item v-for="one in data.things" :key="one.thing" :label="one.name">
        <div :data-thing="one.thing" :class="one.state">
          <p class="state">
            <svg viewBox="0 0 24 24" width="20" height="20" aria-hidden="true">
              <path v-if="one.state === 'holds'" d="M5 12.5l4.5 4.5L19 7" class="sign" />
              <path
                v-else-if="one.state === 'doubtful'"
                d="M8.5 9a3.5 3.5 0 1 1 5 3.2c-1 .5-1.5 1-1.5 2.3M12 18.5v.5"
                class="sign"
              />
              <path v-else d="M6 6l12 12M18 6L6 18" class="sign" />
            </svg>
            <b>{{ one.word }}</b>
            <span class="from" :title="asDay(one.at)">from {{ ago(one.at) }}</span>
          </p>
          <p v-for="why in one.reasons" :key="why" class="small">{{ why }}</p>
        </div>
      </el-descriptions-item>
    </el-descriptions>
  </section>
</template>

<style scoped>
.state {
  display: flex;
  flex-wrap: wrap;
  gap: 0 6px;
  align-items: baseline;
}
.state svg {
  align-self: center;
}
.from {
  margin-left: auto;
  color: var(--ink-2);
  white-space: nowrap;
}
.sign {
  fill: none;
  stroke: currentcolor;
  stroke-width: 2.4;
}
@media (max-width: 640px) {
  .from {
    margin-left: 26px;
  }
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
</style>
