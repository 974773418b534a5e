<script setup lang="ts">
// The line to the machine, and what is never asked of it.
import { useKnowledge } from '@/api/shown'
import type { More } from './more'

const more = defineModel<More>({ required: true })
defineProps<{ errors: Record<string, string> }>()
const { data: known } = useKnowledge()
</script>

<template>
  <section class="sheet stack">
    <FoldPart :open="more.port !== ''"
      ><template #title><h2 class="inline">Line to the printer</h2></template>
      <div class="stack inner">
        <TextField
          id="port"
          v-model="more.port"
          label="Port or address"
          maxlength="200"
          placeholder="/dev/ttyACM0 or socket://127.0.0.1:8422"
          autocomplete="off"
          :wrong="errors.port"
        />
        <div class="three">
          <NumberField id="baud" v-model="more.baud" label="Baud" inputmode="numeric" :wrong="errors.baud" />
          <SuggestField
            id="dialect"
            v-model="more.dialect"
            label="Dialect"
            maxlength="40"
            :known="known?.dialects.map((d) => ({ value: d.key, says: d.name })) ?? []"
          />
          <TextField
            id="link-name"
            v-model="more.link_name"
            label="Served by the link named"
            maxlength="40"
            placeholder="any"
          />
        </div>
        <div class="three">
          <NumberField
            id="most-bed"
            v-model="more.most_bed"
            label="Bed at most"
            unit="°C"
            :wrong="errors.most_bed"
          />
          <NumberField
            id="most-nozzle"
            v-model="more.most_nozzle"
            label="Nozzle at most"
            unit="°C"
            :wrong="errors.most_nozzle"
          />
          <NumberField
            id="lift"
            v-model="more.lift"
            label="Lift between touches"
            unit="mm"
            :wrong="errors.lift"
          />
          <NumberField
            id="longest-heat"
            v-model="more.longest_heat"
            label="Heaters off after, minutes"
            :wrong="errors.longest_heat"
          />
        </div>
        <p class="small quiet">
          Finchwort never asks for more than these, and never moves beyond the printable area. Heaters it
          switched on go off by themselves after that time, counted from the last thing you agreed to.
        </p>
      </div>
    </FoldPart>
  </section>
</template>

<style scoped>
.three {
  display: grid;
  gap: 12px;
  align-items: end;
}
.three {
  grid-template-columns: 1fr 1fr 1fr;
}
.inner {
  padding-top: 8px;
}
.inline {
  display: inline;
}
@media (max-width: 640px) {
  .three {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
