<script setup lang="ts">
// What no screw takes out: odd readings first, then the remedy that fits, the others folded away.
import { computed } from 'vue'
import { useApiQuery } from '@/api/ask'
import type { Schemas } from '@/api/client'
import { mm } from '@/shell/format'
import TapePanel from '@/levelling/TapePanel.vue'

const props = defineProps<{ survey: number; visit: Schemas['VisitOut']; open: boolean }>()
const { data } = useApiQuery('/api/surveys/{survey_id}/left', () => ({ survey_id: props.survey }))
const fits = computed(() => data.value?.remedies.filter((r) => r.fits) ?? [])
// a plate on pads is helped by foil; a loose one, on springs or under glass, by tape
const loose = computed(() => props.visit.printer.pads.length === 0)
const taped = (kind: string): boolean => kind === 'shims' && loose.value
const others = computed(() => data.value?.remedies.filter((r) => !r.fits) ?? [])
</script>

<template>
  <section v-if="data" class="sheet stack" aria-label="What is left">
    <h3>
      What is left: {{ mm(data.peak_to_valley) }}, {{ Math.round(100 * data.share) }} % of the first layer
    </h3>
    <div v-for="one in fits" :key="one.kind" class="one">
      <b>{{ one.title }}</b>
      <p>{{ one.sentence }}</p>
      <ul v-if="one.consequences.length" class="small">
        <li v-for="c in one.consequences" :key="c">{{ c }}</li>
      </ul>
      <FoldPart v-if="taped(one.kind)" title="Where, and how much">
        <TapePanel :visit="visit.id" :survey="survey" :open="open" />
      </FoldPart>
    </div>
    <p v-for="one in data.odd.slice(1)" :key="one.sentence" class="small">{{ one.sentence }}</p>
    <p v-if="data.fault" class="small">{{ data.fault }}</p>
    <FoldPart title="The other ways">
      <div v-for="one in others" :key="one.kind" class="one quiet">
        <b>{{ one.title }}</b>
        <p class="small">{{ one.sentence }}</p>
        <ul v-if="one.consequences.length" class="small">
          <li v-for="c in one.consequences" :key="c">{{ c }}</li>
        </ul>
        <FoldPart v-if="taped(one.kind)" title="Where, and how much">
          <TapePanel :visit="visit.id" :survey="survey" :open="open" />
        </FoldPart>
      </div>
    </FoldPart>
  </section>
</template>

<style scoped>
.one {
  padding: 6px 0 6px 12px;
  border-left: 4px solid var(--line-2);
}
.one.quiet {
  margin-top: 8px;
  border-color: var(--line);
}
ul {
  margin: 4px 0;
  padding-left: 20px;
}
</style>
