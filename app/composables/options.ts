import { onMounted, shallowRef, type Ref } from 'vue'

/** Choices of a form that are read when it is shown; none where they cannot be read. */
export function useOptions<T>(read: () => Promise<readonly T[]>): Readonly<Ref<readonly T[]>> {
  const options = shallowRef<readonly T[]>([])
  onMounted(() =>
    read().then(
      (found) => {
        options.value = found
      },
      () => {},
    ),
  )
  return options
}
