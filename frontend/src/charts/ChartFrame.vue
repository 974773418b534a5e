<script setup lang="ts" generic="R extends object">
// A chart over time or of a spread: what it shows said in words, closer and whole again, saved as a picture, and the
// same as a table for who would rather read it.
import { useElementVisibility, whenever } from '@vueuse/core'
import { computed, ref, type Component } from 'vue'
import { FONT, palette } from '@/bed/palette'
import { later } from '@/components/later'
import type { Column } from '@/components/rows'
import type { Look, Option } from './frame'
import { savePng, saveSvg } from './save'

const EChart = later(() => import('./EChart.vue'))
const DataTable = later(
  () => import('@/components/DataTable.vue') as unknown as Promise<{ default: Component }>,
)
const props = withDefaults(
  defineProps<{
    /** What a listener hears in place of the picture. */
    says: string
    option: (look: Look) => Option
    rows: R[]
    columns: Column<R>[]
    rowKey: keyof R & string
    /** What a saved file is called. */
    name: string
    height?: number
  }>(),
  { height: 250 },
)
const paper = ref<HTMLElement | null>(null)
const near = useElementVisibility(paper, { rootMargin: '120px' })
const seen = ref(false)
whenever(near, () => (seen.value = true), { immediate: true, once: true })
const drawn = computed(() => props.option({ palette: palette.value, font: FONT }))
const chart = ref<{ from: (start: number) => void; svg: () => SVGSVGElement | null } | null>(null)
const start = ref(0)
function closer(to: number): void {
  start.value = to
  chart.value?.from(to)
}
function save(kind: 'svg' | 'png'): void {
  const svg = chart.value?.svg()
  if (!svg) return
  if (kind === 'svg') saveSvg(svg, props.name)
  else void savePng(svg, props.name, palette.value.ground)
}
const opened = ref(false)
</script>

<template>
  <figure class="frame">
    <div ref="paper" class="paper" role="img" :aria-label="says" :style="{ height: `${height}px` }">
      <component :is="EChart" v-if="seen" ref="chart" :option="drawn" />
    </div>
    <figcaption class="row small no-print">
      <template v-if="rows.length > 6">
        <el-button v-if="start < 75" text size="small" @click="closer(start ? 75 : 50)"
          >Newest, closer</el-button
        >
        <el-button v-if="start" text size="small" @click="closer(0)">All of it</el-button>
      </template>
      <el-dropdown trigger="click" @command="save">
        <el-button text size="small">Save the picture</el-button>
        <template #dropdown>
          <el-dropdown-menu>
            <el-dropdown-item command="png">As PNG</el-dropdown-item>
            <el-dropdown-item command="svg">As SVG</el-dropdown-item>
          </el-dropdown-menu>
        </template>
      </el-dropdown>
      <el-button text size="small" :aria-expanded="opened" @click="opened = !opened">As a table</el-button>
    </figcaption>
    <component
      :is="DataTable"
      v-if="opened"
      :rows="rows"
      :columns="columns as Column<object>[]"
      :row-key="rowKey as never"
      :name="name"
    />
  </figure>
</template>

<style scoped>
.frame {
  margin: 0;
  min-width: 0;
}
/* as wide as its room, also when that becomes narrower */
.paper {
  contain: inline-size;
  overflow: hidden;
}
</style>
