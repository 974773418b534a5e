<script setup lang="ts">
// Foil, tape, a beam: one instruction at a time, then what was done is recorded.
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import WhereScrew from '@/bed/WhereScrew.vue'
import { useAdjusted } from './adjusted'

const props = defineProps<{ visit: Schemas['VisitOut']; deck: Schemas['DeckOut'] }>()
const at = ref(0) // 0: what is ahead, then one card each, then the end
const last = computed(() => props.deck.cards.length + 1)
const card = computed(() => props.deck.cards[at.value - 1] ?? null)
const posts = computed(() => [
  ...props.visit.printer.pads.map(({ name, x, y }) => ({ name, x, y })),
  ...(card.value?.marks ?? []).map((m) => ({ name: '', x: m.x, y: m.y })),
])
const back = (): void => void (at.value = Math.max(0, at.value - 1))
const next = (): void => void (at.value = Math.min(last.value, at.value + 1))
defineExpose({ back, next })

const { record, sending } = useAdjusted(
  () => props.visit.id,
  () => props.deck.survey_id!,
)
const did = (way: Schemas['WayOut']): Promise<void> => record(way.adjustment)
</script>

<template>
  <div v-if="deck.kind === 'nothing'" class="body">
    <h1>{{ deck.title }}</h1>
    <p v-for="line in deck.lines" :key="line">{{ line }}</p>
    <RouterLink class="el-button el-button--primary el-button--large link" :to="`/visits/${visit.id}/measure`"
      >To the readings</RouterLink
    >
  </div>
  <div v-else-if="at === 0" class="body">
    <h1>{{ deck.title }}</h1>
    <p v-for="line in deck.lines" :key="line" class="line">{{ line }}</p>
    <CautionNote class="big">{{ deck.caution }}</CautionNote>
  </div>
  <div v-else-if="card" class="body">
    <div v-if="card.marks.length" class="bed">
      <WhereScrew
        what="place"
        :bed="visit.printer.bed"
        :screws="posts"
        :name="visit.printer.pads.length ? card.where : ''"
      />
    </div>
    <p v-if="card.where" class="where">{{ card.where }}</p>
    <h1>{{ card.title }}</h1>
    <p v-for="line in card.lines" :key="line" class="line">{{ line }}</p>
  </div>
  <div v-else class="body">
    <h1>{{ deck.ways.length > 1 ? 'What did you do?' : 'All done?' }}</h1>
    <p>{{ deck.after }}</p>
    <TroubleNote v-if="sending.trouble">{{ sending.trouble }}</TroubleNote>
    <el-button
      v-for="(way, i) in deck.ways"
      :key="way.label"
      :type="i ? 'default' : 'primary'"
      class="did"
      :loading="sending.busy"
      @click="did(way)"
      >{{ way.label }}</el-button
    >
  </div>
  <div v-if="deck.kind !== 'nothing'" class="foot">
    <el-button class="tile" :disabled="at === 0" @click="back">Back</el-button>
    <el-button class="tile next" :disabled="at === last" @click="next">Next</el-button>
  </div>
</template>

<style scoped src="@/shell/bench.css"></style>
<style scoped src="./at-printer.css"></style>
