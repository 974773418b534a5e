<script setup lang="ts">
// Readings beside the machine: one place at a time, a keypad for a thumb, in a short walking order.
import { useEventListener } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ask } from '@/api/ask'
import { sentence } from '@/api/client'
import { useVisit } from '@/api/shown'
import WhereScrew from '@/bed/WhereScrew.vue'
import { useAwake } from '@/shell/awake'
import { count, parseNumber } from '@/shell/format'
import { useDraft } from './draft'

const route = useRoute()
const router = useRouter()
const id = computed(() => Number(route.params.id))
const { data: visit, error } = useVisit(id)
const draft = useDraft(id.value)
const trouble = ref('')
const wrong = ref('')

watch(
  visit,
  async (now) => {
    if (!now || draft.value.points.length) return
    try {
      const answer = await ask('/api/printers/{printer_id}/pattern', {
        printer_id: now.printer.id,
        kind: 'screws',
        columns: 3,
        rows: 3,
      })
      draft.value.points = answer.points.map(({ x, y }) => ({ x, y, text: '' }))
      draft.value.pattern = 'screws'
    } catch (e) {
      trouble.value = sentence(e)
    }
  },
  { immediate: true },
)
const at = computed(() => draft.value.points[draft.value.at] ?? null)
const spots = computed(() => draft.value.points.map((p, i) => ({ name: String(i), x: p.x, y: p.y })))
const done = computed(() => draft.value.points.filter((p) => parseNumber(p.text) !== null).length)
const leave = (): void => void router.push(`/visits/${id.value}/measure`)

function press(key: string): void {
  if (!at.value) return
  wrong.value = ''
  const text = at.value.text
  if (key === '⌫') at.value.text = text.slice(0, -1)
  else if (key === '±') at.value.text = /^[-−]/.test(text) ? text.slice(1) : `−${text}`
  else if (key === '.') at.value.text = /[.,]/.test(text) ? text : `${text || '0'}.`.replace(/^−\./, '−0.')
  else if (text.length < 9) at.value.text = text + key
}
function move(by: number): void {
  const text = at.value?.text.trim() ?? ''
  if (by > 0 && text && parseNumber(text) === null) {
    wrong.value = `“${text}” is not a number.`
    return
  }
  wrong.value = ''
  if (by > 0 && draft.value.at === draft.value.points.length - 1) {
    draft.value.mode = 'typed'
    leave()
    return
  }
  draft.value.at = Math.min(Math.max(draft.value.at + by, 0), draft.value.points.length - 1)
}
useEventListener(document, 'keydown', (event: KeyboardEvent) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return
  const keys: Record<string, () => void> = {
    Backspace: () => press('⌫'),
    '-': () => press('±'),
    '.': () => press('.'),
    ',': () => press('.'),
    Enter: () => move(1),
    ArrowRight: () => move(1),
    ArrowLeft: () => move(-1),
    Escape: leave,
  }
  const act = /^\d$/.test(event.key) ? () => press(event.key) : keys[event.key]
  if (
    !act ||
    (event.key === 'Enter' &&
      event.target instanceof HTMLButtonElement &&
      event.target.dataset.pad !== undefined)
  )
    return
  event.preventDefault()
  act()
})
useAwake()
const PAD = ['7', '8', '9', '4', '5', '6', '1', '2', '3', '±', '0', '.']
</script>

<template>
  <div class="card">
    <div class="head">
      <span>{{ visit?.printer.name }}</span>
      <span>{{ done }} of {{ draft.points.length }} read</span>
      <el-button class="tile close" @click="leave">Close</el-button>
    </div>
    <TroubleNote v-if="error || trouble">{{ trouble || sentence(error) }}</TroubleNote>
    <div v-if="visit && at" class="body">
      <div class="top">
        <WhereScrew
          :bed="visit.printer.bed"
          :screws="spots"
          :name="String(draft.at)"
          what="place"
          class="bed"
        />
        <div>
          <h1>Place {{ draft.at + 1 }}</h1>
          <p class="where number">x {{ at.x }} y {{ at.y }} mm</p>
          <output class="value number" aria-live="polite" aria-label="Reading"
            >{{ at.text || '–' }}
            <small
              >{{ draft.unit === 'um' ? 'µm' : 'mm' }} {{ draft.values === 'gap' ? 'gap' : 'height' }}</small
            ></output
          >
          <TroubleNote v-if="wrong">{{ wrong }}</TroubleNote>
        </div>
      </div>
      <CautionNote>
        Nozzle and bed are hot: hands off both. Move the head with the printer’s own controls, or with the
        motors off.
      </CautionNote>
      <div class="pad" role="group" aria-label="Keypad">
        <el-button
          v-for="one in PAD"
          :key="one"
          class="tile"
          data-pad
          :aria-label="one === '±' ? 'Change the sign' : one === '.' ? 'Point' : one"
          @click="press(one)"
        >
          {{ one }}
        </el-button>
      </div>
    </div>
    <div class="foot">
      <el-button class="tile" :disabled="draft.at === 0" @click="move(-1)">Back</el-button>
      <el-button class="tile" aria-label="Delete the last digit" @click="press('⌫')">⌫</el-button>
      <el-button class="tile next" @click="move(1)">
        {{ draft.at === draft.points.length - 1 ? `Done (${count(done, 'reading')})` : 'Next' }}
      </el-button>
    </div>
  </div>
</template>

<style scoped src="@/shell/bench.css"></style>
<style scoped>
.foot {
  grid-template-columns: 1fr 1fr 2fr;
}
.body {
  flex: 1;
  display: flex;
  flex-direction: column;
  gap: 1.4vh;
  padding: 10px 14px;
  max-width: 760px;
  width: 100%;
  margin: 0 auto;
}
.top {
  display: grid;
  grid-template-columns: min(30vw, 200px) 1fr;
  gap: 16px;
  align-items: center;
}
.bed {
  width: 100%;
}
h1 {
  font-size: clamp(1.5rem, 5vh, 2.4rem);
}
.where {
  font-size: 1.1rem;
}
.value {
  display: block;
  font-family: var(--head);
  font-weight: 700;
  font-size: clamp(2.2rem, min(8vh, 13vw), 4rem);
  line-height: 1.1;
}
.value small {
  display: block;
  font-family: var(--text);
  font-size: 1rem;
  font-weight: 400;
}
.foot button {
  min-height: 72px;
}
.foot {
  background: var(--ground);
}
.pad {
  flex: 1;
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 8px;
  min-height: 44vh;
}
.pad button {
  font-size: clamp(1.8rem, 5vh, 2.6rem);
  font-weight: 650;
  min-height: 60px;
}
</style>
