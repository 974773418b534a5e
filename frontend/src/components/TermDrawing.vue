<script setup lang="ts">
// A small picture of what a term means, drawn like the other drawings of the book.
defineProps<{ of: string }>()
</script>

<template>
  <svg viewBox="0 0 160 64" class="term" aria-hidden="true">
    <template v-if="of === 'gap'">
      <path d="M66 6h28v14l-9 12H75L66 20z" class="tip" />
      <path d="M20 52h120v6H20z" class="plate" />
      <path d="M110 32v20M106 37l4-5 4 5M106 47l4 5 4-5" class="mark" />
      <path d="M80 32h36" class="thin" />
    </template>
    <template v-else-if="of === 'bead'">
      <path d="M20 52h120v6H20z" class="plate" />
      <path
        d="M34 38h26a7 7 0 0 1 0 14H34a7 7 0 0 1 0-14zM74 38h26a7 7 0 0 1 0 14H74a7 7 0 0 1 0-14z"
        class="good"
      />
      <path d="M108 10h20v12l-6 12h-8l-6-12z" class="tip" />
    </template>
    <template v-else-if="of === 'mesh'">
      <path d="M20 50l30-26h90l-30 26zM30 41l90 0M40 33h90M50 50l30-26M80 50l30-26" class="thin" />
      <circle v-for="[x, y] in MESH" :key="`${x}-${y}`" :cx="x" :cy="y" r="3" class="dot" />
    </template>
    <template v-else-if="of === 'turn'">
      <circle cx="60" cy="34" r="16" class="plate" />
      <path d="M60 34V18" class="mark" />
      <path d="M60 10a24 24 0 0 1 24 24M79 30l5 5 5-6" class="mark" />
      <path d="M112 8v48M104 14h16M104 22h16M104 30h16M104 38h16M104 46h16" class="thin" />
    </template>
    <template v-else-if="of === 'flatness'">
      <path d="M16 12h128M16 50h128" class="dash" />
      <path d="M16 40c16-6 22-28 38-28s20 38 42 38 26-22 48-26" class="line" />
      <path d="M150 12v38M146 17l4-5 4 5M146 45l4 5 4-5" class="mark" />
    </template>
    <template v-else-if="of === 'tilt'">
      <path d="M16 52h128" class="dash" />
      <path d="M16 46L144 16" class="line" />
      <circle v-for="[x, y] in ALONG" :key="x" :cx="x" :cy="y" r="3" class="dot" />
      <path d="M144 18v32M140 45l4 5 4-5" class="mark" />
    </template>
    <template v-else-if="of === 'rms'">
      <path d="M16 22h128v20H16z" class="band" />
      <path d="M16 32h128" class="dash" />
      <path d="M16 38c14 8 20-26 34-22s18 32 36 30 22-28 34-26 14 18 24 14" class="line" />
    </template>
    <template v-else-if="of === 'bow'">
      <path d="M12 20q20 30 40 0" class="line" />
      <path d="M60 44q20-30 40 0" class="line" />
      <path d="M108 24l16 20 24-22-18-8zM108 24l40-2" class="line" />
    </template>
    <template v-else-if="of === 'repeat'">
      <path d="M16 20h128v24H16z" class="band" />
      <path d="M16 32h128" class="dash" />
      <circle v-for="[x, y] in SPREAD" :key="x" :cx="x" :cy="y" r="3" class="dot" />
    </template>
    <template v-else-if="of === 'outlier'">
      <path d="M16 36h128v18H16z" class="band" />
      <circle v-for="[x, y] in STRAY" :key="x" :cx="x" :cy="y" r="3" class="dot" />
      <path d="M92 6l12 12M104 6L92 18" class="mark" />
    </template>
    <template v-else-if="of === 'soak'">
      <path d="M16 54V8M16 54h128" class="thin" />
      <path d="M16 52C40 16 62 18 144 16" class="line" />
    </template>
    <template v-else-if="of === 'fade'">
      <path d="M16 54q34-16 64 0t64-4" class="line" />
      <path d="M16 42q34-10 64 0t64-2" class="line" />
      <path d="M16 31q34-4 64 0t64-1" class="line" />
      <path d="M16 20h128" class="mark" />
    </template>
    <template v-else-if="of === 'between'">
      <path d="M14 46l40-26 46 14 44-22" class="dash" />
      <path d="M14 46c14-22 26-30 40-26s28 16 46 14 30-14 44-22" class="line" />
      <circle v-for="[x, y] in BETWEEN" :key="x" :cx="x" :cy="y" r="3.4" class="dot" />
    </template>
    <template v-else-if="of === 'probe'">
      <path d="M20 52h120v6H20z" class="plate" />
      <path d="M52 6h28v14l-9 10H61l-9-10z" class="tip" />
      <path d="M104 8h12v26h-12z" class="tip" />
      <path d="M110 34v18M66 38h44" class="mark" />
    </template>
    <template v-else-if="of === 'ladder'">
      <path d="M14 48h124v6H14z" class="plate" />
      <rect
        v-for="i in 5"
        :key="i"
        :x="i * 26 - 10"
        :y="26 + i * 2"
        width="20"
        :height="22 - i * 2"
        class="good"
      />
      <path d="M18 12l112 14M124 20l7 6-8 4" class="mark" />
    </template>
    <template v-else-if="of === 'shim'">
      <path d="M16 18l128-4v8L16 26z" class="plate" />
      <path d="M28 40h16v14H28zM116 40h16v14h-16z" class="tip" />
      <path d="M26 36h20M26 32h20M26 28h20" class="mark" />
      <path d="M114 36h20" class="mark" />
    </template>
  </svg>
</template>

<script lang="ts">
const MESH = [
  [20, 50],
  [50, 50],
  [80, 50],
  [110, 50],
  [50, 24],
  [80, 24],
  [110, 24],
  [140, 24],
]
const ALONG = [
  [30, 40],
  [60, 38],
  [90, 26],
  [120, 24],
]
const SPREAD = [
  [30, 28],
  [48, 38],
  [66, 30],
  [84, 34],
  [102, 26],
  [120, 36],
]
const STRAY = [
  [30, 44],
  [48, 48],
  [66, 42],
  [98, 12],
  [116, 46],
  [132, 44],
]
const BETWEEN = [
  [14, 46],
  [54, 20],
  [100, 34],
  [144, 12],
]
</script>

<style scoped>
.term {
  display: block;
  width: 160px;
  height: 64px;
}
.tip {
  fill: var(--sheet-2);
  stroke: var(--ink);
  stroke-width: 1.5;
}
.plate {
  fill: var(--sheet-2);
  stroke: var(--line-2);
}
.good {
  fill: var(--good-ground);
  stroke: var(--good);
  stroke-width: 1.5;
}
.band {
  fill: var(--sheet-2);
}
.line,
.mark,
.thin,
.dash {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
}
.mark {
  stroke: var(--act);
}
.thin {
  stroke: var(--ink-2);
  stroke-width: 1.2;
}
.dash {
  stroke: var(--ink-2);
  stroke-width: 1.2;
  stroke-dasharray: 5 4;
}
.dot {
  fill: var(--accent);
}
</style>
