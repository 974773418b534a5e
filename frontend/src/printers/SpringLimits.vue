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
  <details v-if="screws.length" :open="Object.values(limits).some((l) => l.tight || l.loose)">
    <summary>Travel left in the springs</summary>
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
            <input
              v-model="of(s.name).tight"
              class="field"
              inputmode="decimal"
              :aria-label="`Turns to tight at ${s.name}`"
              placeholder="not known"
            />
            <p v-if="errors[`screws.${i}.to_tight`]" class="wrong">{{ errors[`screws.${i}.to_tight`] }}</p>
          </td>
          <td>
            <input
              v-model="of(s.name).loose"
              class="field"
              inputmode="decimal"
              :aria-label="`Turns to loose at ${s.name}`"
              placeholder="not known"
            />
            <p v-if="errors[`screws.${i}.to_loose`]" class="wrong">{{ errors[`screws.${i}.to_loose`] }}</p>
          </td>
        </tr>
      </tbody>
    </table>
  </details>
</template>

<style scoped>
summary {
  cursor: pointer;
  font-weight: 600;
  padding: 6px 0;
}
</style>
