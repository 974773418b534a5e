<script setup lang="ts">
// Where each screw is and what a turn of it moves.
import type { SetUpText } from './setUpText'

defineProps<{ errors: Record<string, string> }>()
const now = defineModel<SetUpText>({ required: true })
</script>

<template>
  <!-- eslint-disable vue/no-restricted-html-elements --
  a grid of fields: a row of the kit's is built anew while one types in it -->
  <table class="plain-table screws">
    <thead>
      <tr>
        <th>Screw</th>
        <th>X, mm</th>
        <th>Y, mm</th>
        <th>mm a turn</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(screw, i) in now.form.screws" :key="i">
        <td>
          <el-input v-model="screw.name" maxlength="40" :aria-label="`Name of screw ${i + 1}`" />
        </td>
        <td>
          <NumberField
            v-model="screw.x"
            :label="`X of ${screw.name}`"
            unnamed
            :wrong="errors[`screws.${i}.x`]"
            @input="now.ownPlaces = true"
          />
        </td>
        <td>
          <NumberField
            v-model="screw.y"
            :label="`Y of ${screw.name}`"
            unnamed
            :wrong="errors[`screws.${i}.y`]"
            @input="now.ownPlaces = true"
          />
        </td>
        <td>
          <NumberField
            v-model="screw.pitch"
            :label="`Pitch of ${screw.name}`"
            unnamed
            :wrong="errors[`screws.${i}.pitch`]"
            @input="((now.thread = 'own'), (screw.thread = 'own'))"
          />
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.screws td,
.screws th {
  padding: 3px;
}
</style>
