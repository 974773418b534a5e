<script setup lang="ts">
// What the hand felt or saw at one place after another, and where the places lie.
import { computed, ref } from 'vue'
import { ask } from '@/api/ask'
import { sentence, type Schemas } from '@/api/client'
import { useFeels } from '@/api/shown'
import TestPrintPanel from '@/first_layer/TestPrintPanel.vue'
import { parseNumber } from '@/shell/format'
import { valueOf, type HandDraft } from './draft'
import FeelButtons from './FeelButtons.vue'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
const hand = defineModel<HandDraft>({ required: true })
const { data: feels } = useFeels()
const trouble = ref('')
async function lay(kind: 'screws' | 'grid', columns = 3, rows = 3, inset?: number): Promise<void> {
  try {
    const answer = await ask('/api/printers/{printer_id}/pattern', {
      printer_id: props.visit.printer.id,
      kind,
      columns,
      rows,
      ...(inset === undefined ? {} : { inset }),
    })
    hand.value.points = answer.points.map(({ x, y }, i) => ({
      x,
      y,
      name: answer.names[i] ?? '',
      value: '',
      feel: null,
      stop: '',
      z: '',
    }))
    hand.value.at = 0
  } catch (e) {
    trouble.value = sentence(e)
  }
}
if (!hand.value.points.length) void lay('screws')
// the places of a mesh by hand, in the order they are walked
const mesh = ref({ columns: '3', rows: '3', inset: '' })
function layMesh(): void {
  const [columns, rows, inset] = [
    parseNumber(mesh.value.columns),
    parseNumber(mesh.value.rows),
    mesh.value.inset.trim() ? parseNumber(mesh.value.inset) : undefined,
  ]
  trouble.value = ''
  if (
    columns === null ||
    rows === null ||
    inset === null ||
    columns < 2 ||
    rows < 2 ||
    columns > 9 ||
    rows > 9
  )
    return void (trouble.value = 'Two to nine places a side; the inset in mm, or nothing.')
  void lay('grid', Math.round(columns), Math.round(rows), inset)
}
/** The very stops of the file: their places, their order, their heights. */
function takeStops(spots: Schemas['SpotOut'][]): void {
  hand.value.points = spots.map(({ x, y, z, name }) => ({
    x,
    y,
    name,
    z: z.toFixed(2),
    value: '',
    feel: null,
    stop: '',
  }))
  hand.value.at = 0
}

const at = computed(() => hand.value.points[hand.value.at] ?? null)
const walkMore = computed(() => {
  const paper = parseNumber(hand.value.thickness)
  return paper && paper > 0 && paper <= 1 ? { paper } : {}
})
function next(): void {
  // what cannot be read is mended before the next place
  const { way } = hand.value
  const typed =
    way === 'paper' ? [] : way === 'feeler' ? [at.value?.value, at.value?.stop] : [at.value?.value]
  if (typed.some((one) => one?.trim() && parseNumber(one) === null)) return
  const total = hand.value.points.length
  for (let i = 1; i <= total; i++) {
    const index = (hand.value.at + i) % total
    if (valueOf(hand.value, hand.value.points[index]!) === null) {
      hand.value.at = index
      return
    }
  }
  hand.value.at = Math.min(hand.value.at + 1, total - 1)
}
function feel(which: Schemas['FeelOut']['key']): void {
  if (!at.value) return
  at.value.feel = which
  next()
}
</script>

<template>
  <el-form class="sheet stack" @submit.prevent="next">
    <p v-if="at" class="row spread">
      <b>{{ hand.at + 1 }} of {{ hand.points.length }}{{ at.name ? `: ${at.name}` : '' }}</b
      ><span class="number">x {{ at.x }} y {{ at.y }} mm</span>
    </p>
    <template v-if="hand.way === 'paper'">
      <div class="row">
        <label for="thickness">Strip thickness, mm</label
        ><el-input id="thickness" v-model="hand.thickness" inputmode="decimal" class="short" />
      </div>
      <div v-if="at" class="row">
        <label for="felt-z">Felt at Z on the display, mm</label
        ><el-input id="felt-z" v-model="at.z" inputmode="text" class="short" placeholder="0.00" />
      </div>
      <FeelButtons v-if="at" :chosen="at.feel ?? null" @feel="feel" />
      <p class="small quiet">“Pulls, but bunches up when pushed” is already too close.</p>
    </template>
    <template v-else-if="hand.way === 'lowered' && at">
      <div class="pair">
        <NumberField id="thickness" v-model="hand.thickness" label="Strip thickness" unit="mm" />
        <ChoiceField id="step" v-model="hand.step" label="Lowered in steps of, mm">
          <el-option v-for="one in feels?.steps" :key="one" :value="one" :label="one" />
        </ChoiceField>
      </div>
      <NumberField
        id="drag-z"
        v-model="at.value"
        label="Z at which it just drags"
        unit="mm"
        inputmode="text"
        class="big"
        placeholder="0.25"
      />
      <p class="small quiet">
        Go there high above the bed, lower in small steps until the strip just drags, and type the Z that the
        display shows.
      </p>
    </template>
    <template v-else-if="hand.way === 'feeler' && at">
      <div class="pair">
        <NumberField id="slides" v-model="at.value" label="Thickest leaf that slides" unit="mm" />
        <NumberField
          id="stops"
          v-model="at.stop"
          label="Thinnest that does not"
          unit="mm"
          placeholder="if you tried"
        />
      </div>
      <p class="small quiet">Clean the oil off the leaves before they touch the plate.</p>
    </template>
    <template v-else-if="at">
      <NumberField
        id="shows"
        v-model="at.value"
        :label="hand.way === 'dial' ? 'The dial shows, mm' : 'Plate over base, mm'"
        class="big"
      />
      <fieldset v-if="hand.way === 'dial'">
        <legend class="label">When the bed is higher, the needle goes to …</legend>
        <el-radio-group v-model="hand.plus_is_high" aria-label="Sign of the dial">
          <el-radio-button :value="true">plus</el-radio-button
          ><el-radio-button :value="false">minus</el-radio-button>
        </el-radio-group>
      </fieldset>
      <p v-else class="small quiet">
        From the base to the underside of the plate at each corner, held the same way.
      </p>
    </template>
    <div class="row">
      <el-button v-if="hand.way !== 'paper'" type="primary" size="large" native-type="submit">Next</el-button>
      <el-button size="small" @click="lay('screws')"
        >{{ visit.printer.screws.length ? 'Screws' : visit.printer.pads.length ? 'Pads' : 'Corners' }} and
        middle</el-button
      >
      <el-button size="small" @click="lay('grid')">3 × 3</el-button>
    </div>
    <FoldPart v-if="hand.way === 'lowered'" title="A mesh by hand">
      <div class="mesh">
        <NumberField id="mesh-columns" v-model="mesh.columns" label="Columns" inputmode="numeric" />
        <NumberField id="mesh-rows" v-model="mesh.rows" label="Rows" inputmode="numeric" />
        <NumberField id="mesh-inset" v-model="mesh.inset" label="Inset" unit="mm" placeholder="usual" />
      </div>
      <p><el-button size="small" @click="layMesh">Lay these places</el-button></p>
      <p class="small quiet">
        For a machine that follows a mesh and has no probe: store the readings, then make the mesh from them
        in the step Mesh.
      </p>
    </FoldPart>
    <TestPrintPanel
      v-if="hand.way === 'paper'"
      :visit="visit"
      kind="paper_walk"
      :more="walkMore"
      asks
      @stops="takeStops"
    />
    <TroubleNote v-if="trouble">{{ trouble }}</TroubleNote>
  </el-form>
</template>

<style scoped>
.mesh {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 10px;
  align-items: end;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  align-items: end;
}
.short {
  width: 6em;
}
.big {
  font-size: 1.6rem;
  min-height: 56px;
}
</style>
