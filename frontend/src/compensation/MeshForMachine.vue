<script setup lang="ts">
// How the machine gets the mesh: what comes after homing, the table, the commands.
import type { Schemas } from '@/api/client'
import TestPrintPanel from '@/first_layer/TestPrintPanel.vue'
import { copyText } from '@/shell/copy'

const props = defineProps<{ data: Schemas['CompensationOut']; visit: Schemas['VisitOut']; files: string }>()
const link = (form: string): string => props.files.replace('FORM', form)
const copy = (text: string): Promise<void> => copyText(text, 'Use the download instead.')
</script>

<template>
  <section class="sheet stack" aria-label="For the machine">
    <h3>After homing, in this order</h3>
    <ol class="small">
      <li v-for="one in data.order" :key="one">{{ one }}</li>
    </ol>
    <div class="row small">
      <a :href="link('txt')" download>Table as text</a>
      <el-button text size="small" @click="copy(data.table)">Copy table</el-button>
      <template v-if="data.kind === 'mesh'"
        ><a :href="link('gcode')" download>Commands</a
        ><el-button text size="small" @click="copy(data.commands)">Copy commands</el-button></template
      >
    </div>
    <FoldPart v-if="data.kind === 'mesh'" title="Show the commands">
      <pre tabindex="0" aria-label="Commands">{{ data.commands }}</pre>
    </FoldPart>
    <TestPrintPanel v-if="data.kind !== 'none'" :visit="visit" kind="mesh_walk" />
    <CautionNote>
      Homing and moving with a new mesh: hand on the power switch, and look under the nozzle.
    </CautionNote>
  </section>
</template>

<style scoped>
ol {
  margin: 0;
  padding-left: 20px;
}
pre {
  max-height: 260px;
  overflow: auto;
  font-size: 0.82rem;
  background: var(--sheet-2);
  padding: 8px;
  border-radius: var(--round);
}
</style>
