<script setup lang="ts">
// Foil, tape, a beam: one instruction at a time, then what was done is recorded.
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { sentence, sendKeyed, type Schemas } from '@/api/client'
import { levelling } from '@/api/levelling'
import { useChange } from '@/api/queries'
import WhereScrew from '@/drawing/WhereScrew.vue'
import { newKey } from '@/shell/format'
import { tell } from '@/shell/undo'

const props = defineProps<{ visit: Schemas['VisitOut']; deck: Schemas['DeckOut'] }>()
const router = useRouter()
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

const key = ref(newKey())
const trouble = ref('')
const keep = useChange((body: Schemas['AdjustmentIn']) => levelling.adjust(props.deck.survey_id!, body))
const remove = useChange(levelling.deleteAdjustment)
async function did(way: Schemas['WayOut']): Promise<void> {
  trouble.value = ''
  const what = way.shims ? { shims: way.shims } : way.tape ? { tape: way.tape } : { beam: way.beam! }
  try {
    const made = await sendKeyed(key, (client_key) => keep.mutateAsync({ client_key, ...what }))
    key.value = newKey()
    tell('Recorded. Now measure again.', () => remove.mutateAsync(made.id))
    await router.push(`/visits/${props.visit.id}/measure`)
  } catch (e) {
    trouble.value = sentence(e)
  }
}
</script>

<template>
  <div v-if="deck.kind === 'nothing'" class="body">
    <h1>{{ deck.title }}</h1>
    <p v-for="line in deck.lines" :key="line">{{ line }}</p>
    <RouterLink class="el-button el-button--primary el-button--large link" :to="`/visits/${visit.id}/measure`">To the readings</RouterLink>
  </div>
  <div v-else-if="at === 0" class="body">
    <h1>{{ deck.title }}</h1>
    <p v-for="line in deck.lines" :key="line" class="line">{{ line }}</p>
    <p class="caution big">{{ deck.caution }}</p>
  </div>
  <div v-else-if="card" class="body">
    <div v-if="card.marks.length" class="bed"><WhereScrew what="place" :bed="visit.printer.bed" :screws="posts" :name="visit.printer.pads.length ? card.where : ''" /></div>
    <p v-if="card.where" class="where">{{ card.where }}</p>
    <h1>{{ card.title }}</h1>
    <p v-for="line in card.lines" :key="line" class="line">{{ line }}</p>
  </div>
  <div v-else class="body">
    <h1>{{ deck.ways.length > 1 ? 'What did you do?' : 'All done?' }}</h1>
    <p>{{ deck.after }}</p>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    <el-button v-for="(way, i) in deck.ways" :key="way.label" :type="i ? 'default' : 'primary'" class="did" :loading="keep.isPending.value" @click="did(way)">{{ way.label }}</el-button>
  </div>
  <div v-if="deck.kind !== 'nothing'" class="foot">
    <button type="button" :disabled="at === 0" @click="back">Back</button>
    <button type="button" class="next" :disabled="at === last" @click="next">Next</button>
  </div>
</template>

<style scoped src="@/shell/bench.css"></style>
<style scoped src="./at-printer.css"></style>
