<script setup lang="ts">
// A device that is let in: its name, what it may do, when it was here, until when; and the way out.
import { computed, ref } from 'vue'
import { roleName, ROLES, type Role } from '@/access/roles'
import { call } from '@/api/ask'
import { useSending } from '@/api/change'
import type { Schemas } from '@/api/client'
import { ago, asDate } from '@/shell/format'

const props = defineProps<{ device: Schemas['DeviceOut'] }>()
const editing = ref(false)
const name = ref('')
const role = ref<Role>('member')
const longer = ref(false)
const at = () => ({ device_id: props.device.id })
const change = useSending({ patient: false })
const remove = useSending({ aloud: true, patient: false })
const seen = computed(() =>
  Date.now() - new Date(props.device.seen_at).getTime() < 300_000
    ? 'here now'
    : `here ${ago(props.device.seen_at)}`,
)

function edit(): void {
  name.value = props.device.name
  role.value = props.device.role
  longer.value = false
  editing.value = true
}
async function save(): Promise<void> {
  const { version } = props.device
  const days = longer.value ? 90 : null
  const body = { version, name: name.value, role: role.value, days } as const
  if (await change.run(() => call('put', '/api/devices/{device_id}', at(), body))) editing.value = false
}
async function out(): Promise<void> {
  await remove.run(
    () => call('delete', '/api/devices/{device_id}', at()),
    `${props.device.name} does not come in any more. What it recorded stays.`,
  )
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
      <TroubleNote v-if="change.trouble">{{ change.trouble }}</TroubleNote>
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
      <p class="row">
        <el-button :aria-label="`Change ${device.name}`" @click="edit">Change</el-button
        ><el-popconfirm
          v-if="!device.this"
          :title="`Remove ${device.name}?`"
          confirm-button-text="Remove it"
          confirm-button-type="danger"
          cancel-button-text="Keep it"
          hide-icon
          :width="260"
          @confirm="out"
          ><template #reference
            ><el-button :aria-label="`Remove ${device.name}`" :loading="remove.busy"
              >Remove</el-button
            ></template
          ></el-popconfirm
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
