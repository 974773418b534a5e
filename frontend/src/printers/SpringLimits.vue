<script setup lang="ts">
// Travel left in each spring, asked once; what is turned from then on is counted off.
export interface Limit {
  tight: string
  loose: string
}
const limits = defineModel<Record<string, Limit>>({ required: true })
defineProps<{ screws: { name: string }[]; errors: Record<string, string> }>()
const of = (name: string): Limit => (limits.value[name] ??= { tight: '', loose: '' })
</script>

<template>
  <!-- eslint-disable vue/no-restricted-html-elements --
  a grid of fields: a row of the kit's is built anew while one types in it -->
  <FoldPart
    v-if="screws.length"
    title="Travel left in the springs"
    :open="Object.values(limits).some((l) => l.tight || l.loose)"
  >
    <p class="small quiet">
      Turns until the spring is solid, and until it is slack. Leave empty what you do not know; plans then set
      no limit. Recorded turns are counted off from now on.
    </p>
    <table class="plain-table">
      <thead>
        <tr>
          <th scope="col">Screw</th>
          <th scope="col">Turns to tight</th>
          <th scope="col">Turns to loose</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(s, i) in screws" :key="s.name">
          <th scope="row">{{ s.name }}</th>
          <td>
            <NumberField
              v-model="of(s.name).tight"
              :label="`Turns to tight at ${s.name}`"
              unnamed
              placeholder="not known"
              :wrong="errors[`screws.${i}.to_tight`]"
            />
          </td>
          <td>
            <NumberField
              v-model="of(s.name).loose"
              :label="`Turns to loose at ${s.name}`"
              unnamed
              placeholder="not known"
              :wrong="errors[`screws.${i}.to_loose`]"
            />
          </td>
        </tr>
      </tbody>
    </table>
  </FoldPart>
</template>

<style scoped></style>
