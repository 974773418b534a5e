<script setup lang="ts">
// The cross beam on two lead screws: which side to drive, or that it is not the beam.
import { computed } from 'vue'
import { useApiQuery } from '@/api/ask'
import { sentence, type Schemas } from '@/api/client'
import { figure, mm } from '@/shell/format'
import { useAdjusted } from './adjusted'

const props = defineProps<{ visit: Schemas['VisitOut']; survey: number; open: boolean }>()
const { data: plan, error } = useApiQuery('/api/surveys/{survey_id}/beam', () => ({
  survey_id: props.survey,
}))
const TITLES = {
  level: 'Leave the beam',
  drive: 'Drive one side of the beam',
  trial: 'Make one trial turn at the beam',
  bed: 'It is the bed, not the beam',
  both: 'Beam first, then the bed',
  unsure: 'Beam: measure again first',
} as const
const CARRIES = {
  unknown: '',
  nozzle: 'The two screws carry the nozzle',
  bed: 'The two screws carry the bed',
} as const
const screws = computed(() => props.visit.printer.screws.length > 0)
const acts = computed(() => plan.value && ['drive', 'trial', 'both'].includes(plan.value.state))
const { record, sending } = useAdjusted(
  () => props.visit.id,
  () => props.survey,
)
const did = (drive: Schemas['DriveOut']): Promise<void> =>
  record(
    { kind: 'beam', side: drive.side, rise: drive.rise, trial: plan.value!.state === 'trial' },
    'Recorded. Home, and measure again.',
  )
</script>

<template>
  <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
  <section v-else-if="plan" class="sheet stack" :class="{ small: !acts }" aria-label="Cross beam">
    <h2>{{ TITLES[plan.state] }}</h2>
    <p v-if="acts && open">
      <RouterLink class="el-button go" :to="`/visits/${visit.id}/at-printer`">At the printer</RouterLink>
    </p>
    <div v-if="acts" class="drives">
      <div v-for="(d, i) in plan.drives" :key="d.side" class="drive">
        <span v-if="i" class="quiet">or</span>
        <b class="side">{{ d.side }} screw {{ d.rise > 0 ? 'up' : 'down' }} {{ mm(Math.abs(d.rise)) }}</b>
        <span>{{ d.words }}</span>
        <el-button v-if="open" :loading="sending.busy" @click="did(d)">I did this</el-button>
      </div>
    </div>
    <p v-if="acts && screws" class="hint">
      {{
        plan.state === 'trial'
          ? 'One thing at a time: this, or the screws below. Then measure again.'
          : 'Beam first. Turn the screws by the next survey, not by this one.'
      }}
    </p>
    <p>{{ plan.sentence }}</p>
    <p class="small quiet">
      Left to right {{ figure(plan.rise, true) }} ± {{ mm(plan.margin) }}. {{ plan.independent
      }}<template v-if="plan.carries !== 'unknown'">
        {{ CARRIES[plan.carries] }}{{ plan.learned ? ', as an earlier move showed' : '' }}.</template
      >
    </p>
    <TroubleNote v-if="sending.trouble">{{ sending.trouble }}</TroubleNote>
    <CautionNote v-if="acts">
      Motors off before you turn a lead screw by hand; fingers out of the belts before they go on again.
    </CautionNote>
  </section>
</template>

<style scoped>
.drives {
  display: grid;
  gap: 8px;
}
.drive {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
}
.hint {
  background: var(--mild-ground);
  border-left: 4px solid var(--mild);
  padding: 8px 12px;
}
.go {
  text-decoration: none;
}
.side {
  font-family: var(--head);
  font-size: 1.25rem;
}
.small h2 {
  font-size: 1.02rem;
}
</style>
