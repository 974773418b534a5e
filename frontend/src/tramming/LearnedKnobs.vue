<script setup lang="ts">
// What the rounds taught about each knob, and beginning anew after a repair.
import { computed, ref } from 'vue'
import { call, useApiQuery } from '@/api/ask'
import { changing, useSending } from '@/api/change'
import type { Schemas } from '@/api/client'
import KnobEffect from '@/charts/KnobEffect.vue'
import { asDay, mm } from '@/shell/format'

const props = defineProps<{ printer: Schemas['PrinterOut'] }>()
const { data } = useApiQuery('/api/printers/{printer_id}/learned', () => ({ printer_id: props.printer.id }))
const note = ref('')
const asking = ref(false)
const sending = useSending({ aloud: true })
const put = (since: string | null, note: string) =>
  call('put', '/api/printers/{printer_id}/learned', { printer_id: props.printer.id }, { since, note })
const doubted = computed(() => new Set([data.value?.named, ...(data.value?.suspects ?? [])]))
const tell = (k: Schemas['KnobLearned']): string =>
  `One turn of tightening at ${k.name} moves the corners, from the front left counter-clockwise: ` +
  k.corners.map((c) => mm(c, true)).join(', ')
// where a knob sits, from the middle, as a share of the half bed
function place(name: string): { x: number; y: number } {
  const { bed, screws } = props.printer
  const s = screws.find((one) => one.name === name) ?? { x: 0, y: 0 }
  const [cx, cy] = [(bed.plate.x_min + bed.plate.x_max) / 2, (bed.plate.y_min + bed.plate.y_max) / 2]
  return {
    x: (s.x - cx) / ((bed.plate.x_max - bed.plate.x_min) / 2),
    y: (s.y - cy) / ((bed.plate.y_max - bed.plate.y_min) / 2),
  }
}
async function mended(): Promise<void> {
  const done = await sending.run(
    () => put(new Date().toISOString(), note.value),
    'Learning begins again with the next round.',
    ({ before }) => changing(() => put(before, '')),
  )
  if (!done) return
  asking.value = false
  note.value = ''
}
</script>

<template>
  <section v-if="data" id="learned" class="sheet stack" aria-label="What the knobs do">
    <h2>What each knob really moves</h2>
    <CautionNote v-if="data.slipping">{{ data.slipping }}</CautionNote>
    <p>
      {{ data.sentence }}
      <span v-if="data.since" class="quiet">Rounds since {{ asDay(data.since) }} count.</span>
    </p>
    <div class="knobs">
      <figure v-for="k in data.knobs" :key="k.name" :class="{ doubted: doubted.has(k.name) }">
        <KnobEffect :corners="k.corners" :expected="k.expected" :knob="place(k.name)" :label="tell(k)" />
        <figcaption>
          <b>{{ k.name }}</b> does {{ k.words }} of what it should
        </figcaption>
      </figure>
    </div>
    <p class="small quiet">
      Rise of the corners against the middle, mm, for one turn of tightening. Square: the knob. Dashed ring: a
      stiff plate on equal springs. {{ data.lost_sentence }}
    </p>
    <p class="small">{{ data.hand }}</p>
    <p v-if="!asking"><el-button @click="asking = true">I mended the knobs or springs</el-button></p>
    <el-form v-else class="stack" @submit.prevent="mended">
      <TextField
        id="mended"
        v-model="note"
        label="What was mended?"
        maxlength="500"
        placeholder="lock nut, new springs …"
      />
      <div class="row">
        <el-button type="primary" native-type="submit" :loading="sending.busy"
          >Learn again from now on</el-button
        ><el-button @click="asking = false">Cancel</el-button>
      </div>
    </el-form>
  </section>
</template>

<style scoped>
.knobs {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(190px, 1fr));
  gap: 12px;
}
figure {
  margin: 0;
  border: 1px solid var(--line);
  border-radius: var(--round);
  padding: 8px;
}
.doubted {
  border: 2px solid var(--act);
}
</style>
