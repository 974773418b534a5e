<script setup lang="ts">
// A device that is let in: its name, what it may do, when it was here, until when; and the way out.
import { computed, ref } from 'vue'
import { access, roleName, ROLES, type Role } from '@/api/access'
import { sentence, type Schemas } from '@/api/client'
import { useChange } from '@/api/queries'
import { ago, asDate } from '@/shell/format'
import { tell } from '@/shell/undo'

const props = defineProps<{ device: Schemas['DeviceOut'] }>()
const editing = ref(false)
const sure = ref(false)
const name = ref('')
const role = ref<Role>('member')
const longer = ref(false)
const trouble = ref('')
const change = useChange((body: Schemas['DeviceChange']) => access.change(props.device.id, body))
const remove = useChange(access.remove)
const seen = computed(() =>
  Date.now() - new Date(props.device.seen_at).getTime() < 300_000
    ? 'here now'
    : `here ${ago(props.device.seen_at)}`,
)

function edit(): void {
  name.value = props.device.name
  role.value = props.device.role
  longer.value = false
  trouble.value = ''
  editing.value = true
}
async function save(): Promise<void> {
  try {
    await change.mutateAsync({
      version: props.device.version,
      name: name.value,
      role: role.value,
      days: longer.value ? 90 : null,
    })
    editing.value = false
  } catch (e) {
    trouble.value = sentence(e)
  }
}
async function out(): Promise<void> {
  try {
    await remove.mutateAsync(props.device.id)
    tell(`${props.device.name} does not come in any more. What it recorded stays.`)
  } catch (e) {
    tell(sentence(e))
  }
  sure.value = false
}
</script>

<template>
  <li class="device">
    <el-form v-if="editing" class="stack" @submit.prevent="save">
      <label>Name <el-input v-model="name" maxlength="60" aria-label="Name of the device" /></label>
      <el-radio-group v-model="role" aria-label="What may it do?"
        ><el-radio v-for="one in ROLES" :key="one.key" :value="one.key">{{
          one.name
        }}</el-radio></el-radio-group
      >
      <p class="small quiet">{{ ROLES.find((one) => one.key === role)!.says }}</p>
      <el-checkbox v-model="longer">Three months from today</el-checkbox>
      <TroubleNote v-if="trouble">{{ trouble }}</TroubleNote>
      <p class="row">
        <el-button type="primary" native-type="submit" :disabled="!name.trim()">Store</el-button
        ><el-button @click="editing = false">Cancel</el-button>
      </p>
    </el-form>
    <div v-else class="row spread">
      <div>
        <b>{{ device.name }}</b> <span v-if="device.this" class="quiet">(this one)</span>
        <div class="quiet small">
          {{ roleName(device.role) }} · {{ seen }} ·
          <span :class="{ over: device.expired }"
            >{{ device.expired ? 'time is over since' : 'until' }} {{ asDate(device.expires_at) }}</span
          >
        </div>
      </div>
      <p v-if="sure" class="row">
        <span>Remove {{ device.name }}?</span
        ><el-button type="danger" :loading="remove.isPending.value" @click="out">Remove it</el-button
        ><el-button @click="sure = false">Keep it</el-button>
      </p>
      <p v-else class="row">
        <el-button :aria-label="`Change ${device.name}`" @click="edit">Change</el-button
        ><el-button v-if="!device.this" :aria-label="`Remove ${device.name}`" @click="sure = true"
          >Remove</el-button
        >
      </p>
    </div>
  </li>
</template>

<style scoped>
.device {
  padding: 10px 0;
  border-top: 1px solid var(--line);
}
.device:first-child {
  border-top: 0;
}
.over {
  color: var(--bad);
  font-weight: 650;
}
</style>
