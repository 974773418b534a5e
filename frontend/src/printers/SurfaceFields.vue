<script setup lang="ts">
// The print surfaces one owns for a machine, and the materials in use.
import type { Schemas } from '@/api/client'
import { useKnowledge } from '@/api/shown'
import type { More } from './more'

const more = defineModel<More>({ required: true })
defineProps<{ errors: Record<string, string> }>()
const { data: known } = useKnowledge()
const CONDITIONS: NonNullable<Schemas['SurfaceSetup']['condition']>[] = ['new', 'good', 'worn', 'damaged']
function addSurface(): void {
  more.value.surfaces.push({
    name: '',
    kind: known.value?.surfaces[0]?.key ?? 'other',
    thickness: '',
    condition: 'good',
    prints: '0',
    coats: '0',
  })
}
</script>

<template>
  <section class="sheet stack">
    <h2>Surfaces and materials</h2>
    <p v-if="!more.surfaces.length" class="quiet small">
      The print surfaces you own for it. A visit chooses among them and takes its temperatures from the pair.
    </p>
    <div v-for="(s, i) in more.surfaces" :key="i" class="stack one">
      <div class="pair">
        <TextField
          :id="`s-name-${i}`"
          v-model="s.name"
          label="Name"
          maxlength="80"
          placeholder="what you call it"
        />
        <ChoiceField :id="`s-kind-${i}`" v-model="s.kind" label="Kind">
          <el-option v-for="k in known?.surfaces" :key="k.key" :value="k.key" :label="k.name" />
          <el-option value="other" label="another kind" />
        </ChoiceField>
      </div>
      <div class="four">
        <NumberField
          :id="`s-thick-${i}`"
          v-model="s.thickness"
          label="Thickness"
          unit="mm"
          :wrong="errors[`surfaces.${i}.thickness`]"
        />
        <ChoiceField :id="`s-cond-${i}`" v-model="s.condition" label="Condition">
          <el-option v-for="c in CONDITIONS" :key="c" :value="c" :label="c" />
        </ChoiceField>
        <NumberField :id="`s-prints-${i}`" v-model="s.prints" label="Prints since wash" inputmode="numeric" />
        <NumberField :id="`s-coats-${i}`" v-model="s.coats" label="Coats of adhesive" inputmode="numeric" />
      </div>
      <p class="row">
        <el-button
          text
          size="small"
          :aria-label="`Remove surface ${s.name || i + 1}`"
          @click="more.surfaces.splice(i, 1)"
          >Remove</el-button
        >
      </p>
    </div>
    <p class="row"><el-button @click="addSurface">Add a surface</el-button></p>
    <fieldset>
      <legend class="label">Materials in use</legend>
      <el-checkbox-group v-model="more.materials"
        ><el-checkbox v-for="m in known?.materials" :key="m.name" :value="m.name">{{
          m.name
        }}</el-checkbox></el-checkbox-group
      >
    </fieldset>
  </section>
</template>

<style scoped>
.pair,
.four {
  display: grid;
  gap: 12px;
  align-items: end;
}
.pair {
  grid-template-columns: 1fr 1fr;
}
.four {
  grid-template-columns: repeat(4, 1fr);
}
.one {
  border-bottom: 1px dashed var(--line-2);
  padding-bottom: 8px;
}
@media (max-width: 640px) {
  .four {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
