<script setup lang="ts">
import { computed, ref } from 'vue'
import { send } from '@/api/change'
import type { Schemas } from '@/api/client'
import { attempt } from '@/shell/undo'
import { useDraft } from '@/shell/draft'
import { patiently } from '@/shell/patience'
import BeamTest from './BeamTest.vue'
import SwitchTest from './SwitchTest.vue'

const props = defineProps<{ visit: Schemas['VisitOut'] }>()
type State = 'good' | 'bad' | 'skipped' | 'open'
const note = (body: Schemas['FindingIn']) =>
  send('post', '/api/visits/{visit_id}/findings', { visit_id: props.visit.id }, body)
const open = ref<string | null>(null)
// half a sentence about what is bad survives a reload, item by item
const { kept: whys } = useDraft<Record<string, string>>(`sound-${props.visit.id}`, {})
const items = computed(() => props.visit.items)
const first = computed(() => items.value.find((item) => item.state === null)?.key ?? null)
const current = computed(() => open.value ?? first.value)
const looked = computed(() => items.value.filter((item) => item.state !== null).length)
const bad = computed(() => items.value.filter((item) => item.state === 'bad').length)

async function mark(item: Schemas['ItemOut'], state: State): Promise<void> {
  const before = item.state ?? 'open'
  let noted = false
  const said = {
    good: 'Good.',
    bad: 'Noted as bad; it is shown wherever it weakens a judgement.',
    skipped: 'Skipped.',
    open: 'Open again.',
  }[state]
  await attempt(
    async () => {
      await patiently(() =>
        note({
          item: item.key,
          state,
          note: state === 'bad' ? (whys.value[item.key] ?? '') : '',
        }),
      )
      noted = true
    },
    said,
    () => note({ item: item.key, state: before, note: item.note }),
  )
  if (!noted) return // what was typed stays
  whys.value = Object.fromEntries(Object.entries(whys.value).filter(([key]) => key !== item.key))
  // what is bad stays open: it says how to mend it
  open.value = state === 'bad' ? item.key : null
}
const WORDS = { good: 'good', bad: 'bad', skipped: 'skipped' } as const
</script>

<template>
  <div class="worktable even">
    <section class="sheet stack" aria-label="Walk round">
      <div class="row spread">
        <h2>Walk round the machine</h2>
        <span class="quiet">{{ looked }} of {{ items.length }} looked at{{ bad ? `, ${bad} bad` : '' }}</span>
      </div>
      <ol>
        <li v-for="item in items" :key="item.key" :class="[item.state, { open: current === item.key }]">
          <el-button
            class="tile title"
            :aria-expanded="current === item.key"
            @click="open = current === item.key ? '' : item.key"
          >
            <svg viewBox="0 0 24 24" width="24" height="24" aria-hidden="true">
              <rect x="3" y="3" width="18" height="18" rx="4" class="box" />
              <path v-if="item.state === 'good'" d="M7 12.5l3.5 3.5L17 8.5" class="sign" />
              <path v-else-if="item.state === 'bad'" d="M12 6v8M12 17v1.5" class="sign" />
              <path v-else-if="item.state === 'skipped'" d="M7.5 12h9" class="sign" />
            </svg>
            <b>{{ item.title }}</b>
            <span class="state">{{ item.state ? WORDS[item.state] : 'to look at' }}</span>
          </el-button>
          <div v-if="current === item.key" class="stack detail">
            <p>{{ item.how }}</p>
            <p><b>Good:</b> {{ item.good }}</p>
            <p class="quiet"><b>Ignored:</b> {{ item.ignore }}</p>
            <CautionNote v-if="item.caution">{{ item.caution }}</CautionNote>
            <div v-if="item.state === 'bad'" class="mend stack" role="status">
              <h3>Mend it: about {{ item.minutes }} min</h3>
              <p>{{ item.mend }}</p>
              <p><b>At hand:</b> {{ item.part }}.</p>
              <p class="small">Mended and looked at again? Then say “Good”.</p>
            </div>
            <template v-if="!visit.ended_at">
              <div class="row">
                <el-button type="primary" size="large" @click="mark(item, 'good')">Good</el-button>
                <el-button size="large" @click="mark(item, 'bad')">Bad</el-button>
                <el-button text size="large" @click="mark(item, 'skipped')">Skip</el-button>
                <el-button v-if="item.state" text @click="mark(item, 'open')">Take back</el-button>
              </div>
              <div>
                <label class="label small" :for="`why-${item.key}`">What is bad about it (if it is)</label>
                <el-input :id="`why-${item.key}`" v-model="whys[item.key]" maxlength="500" />
              </div>
            </template>
          </div>
          <p v-if="item.state === 'bad' && current !== item.key" class="small note">
            <b>Mend it ({{ item.minutes }} min):</b> {{ item.mend }}
          </p>
          <p v-if="item.note && current !== item.key" class="small note">{{ item.note }}</p>
        </li>
      </ol>
      <p class="small quiet">
        Nothing here is compulsory. What is bad stands beside the judgements that rest on it.
      </p>
    </section>
    <div class="stack">
      <section class="sheet stack">
        <h2>Next</h2>
        <p>Warm the bed to printing temperature and watch whether it stands still.</p>
        <p class="row">
          <RouterLink
            class="el-button el-button--primary el-button--large go"
            :to="`/visits/${visit.id}/warm`"
            >Warm up</RouterLink
          >
          <RouterLink class="el-button el-button--large go" :to="`/visits/${visit.id}/measure`"
            >Straight to measuring</RouterLink
          >
        </p>
      </section>
      <SwitchTest :visit="visit" />
      <BeamTest v-if="visit.printer.beam_screws" :visit="visit" />
      <CautionNote>
        Motors off before you move anything by hand. Mains side, supply and heater wiring: unplugged, and by
        someone qualified under your local rules.
      </CautionNote>
    </div>
  </div>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  border-top: 1px solid var(--line);
}
.title {
  font: inherit;
  color: var(--ink);
  display: flex;
  width: 100%;
  gap: 10px;
  align-items: center;
  text-align: left;
  background: none;
  border: 0;
  padding: 10px 4px;
  min-height: 44px;
  cursor: pointer;
}
.state {
  margin-left: auto;
  color: var(--ink-2);
  font-size: 0.95rem;
  white-space: nowrap;
}
.bad .state {
  color: var(--bad);
  font-weight: 650;
}
.box {
  fill: none;
  stroke: var(--line-2);
  stroke-width: 2;
}
.sign {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 2.4;
}
.good .box,
.good .sign {
  stroke: var(--good);
}
.bad .box,
.bad .sign {
  stroke: var(--bad);
}
.mend {
  border-left: 4px solid var(--bad);
  padding-left: 12px;
  gap: 6px;
}
.detail {
  padding: 0 4px 14px 38px;
}
.note {
  padding: 0 4px 8px 38px;
}
.go {
  text-decoration: none;
}
@media (max-width: 800px) {
  .detail,
  .note {
    padding-left: 8px;
  }
}
</style>
