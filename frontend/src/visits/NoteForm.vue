<script setup lang="ts">
// A note for the logbook; half a sentence survives a reload.
import { ref } from 'vue'
import { call } from '@/api/ask'
import { useSending } from '@/api/change'
import { useWorkshop } from '@/api/shown'
import { useDraft } from '@/shell/draft'

const props = defineProps<{ printer: number | '' }>()
const { data: workshop } = useWorkshop()
const { kept: note, clear } = useDraft('note-logbook', '')
const notePrinter = ref<number | ''>(props.printer)
const adding = useSending({ aloud: true, patient: false })
async function write(): Promise<void> {
  if (!note.value.trim()) return
  const body = { text: note.value, printer: notePrinter.value || null }
  if (await adding.run(() => call('post', '/api/logbook', {}, body), 'The note is in the book.')) clear()
}
</script>

<template>
  <el-form class="sheet stack note" @submit.prevent="write">
    <h2>Write a note</h2>
    <el-input
      id="note"
      v-model="note"
      type="textarea"
      aria-label="Note"
      :rows="4"
      maxlength="2000"
      placeholder="What you noticed, changed or ordered"
    />
    <ChoiceField id="note-printer" v-model="notePrinter" label="About" unnamed>
      <el-option value="" label="About the whole workshop" />
      <el-option
        v-for="card in workshop?.cards"
        :key="card.printer.id"
        :value="card.printer.id"
        :label="`About ${card.printer.name}`"
      />
    </ChoiceField>
    <el-button type="primary" native-type="submit" :loading="adding.busy">Put it in the book</el-button>
  </el-form>
</template>
