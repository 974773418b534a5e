<script setup lang="ts">
// A chart of ECharts with the few parts that are used here; fetched when the first one comes into sight.
import { LineChart, ScatterChart } from 'echarts/charts'
import {
  DataZoomInsideComponent,
  GridComponent,
  MarkAreaComponent,
  MarkLineComponent,
  TooltipComponent,
} from 'echarts/components'
import { use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { ref } from 'vue'
import VChart from 'vue-echarts'
import type { Option } from './frame'

use([
  SVGRenderer,
  LineChart,
  ScatterChart,
  GridComponent,
  TooltipComponent,
  DataZoomInsideComponent,
  MarkLineComponent,
  MarkAreaComponent,
])
defineProps<{ option: Option }>()
const chart = ref<InstanceType<typeof VChart> | null>(null)
/** Show the part from so many percent of the width to the end. */
const from = (start: number): void => chart.value?.dispatchAction({ type: 'dataZoom', start, end: 100 })
function svg(): SVGSVGElement | null {
  const drawing = (chart.value?.getDom() as HTMLElement).querySelector('svg')
  // a picture that is saved tells its size by it
  drawing?.setAttribute('viewBox', `0 0 ${drawing.width.baseVal.value} ${drawing.height.baseVal.value}`)
  return drawing
}
defineExpose({ from, svg })
</script>

<template>
  <VChart ref="chart" class="chart" :option="option" :init-options="{ renderer: 'svg' }" autoresize />
</template>

<style scoped>
.chart {
  width: 100%;
  height: 100%;
}
</style>
