// The screen stays on where hands are busy at the machine.
import { useWakeLock } from '@vueuse/core'
import { onMounted, onUnmounted } from 'vue'

export function useAwake(): void {
  const wake = useWakeLock()
  onMounted(() => wake.request('screen').catch(() => undefined))
  onUnmounted(() => wake.release().catch(() => undefined))
}
