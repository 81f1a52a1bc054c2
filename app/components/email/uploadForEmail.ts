import { uploadFile, type StoredFile } from '#shared/api/email/files'
import { upload } from '~/api/call'

/** Adds a file for emails. Throws ApiError, also where it is too large. */
export async function uploadForEmail(file: File, progress: (share: number) => void = () => {}): Promise<StoredFile> {
  const name = encodeURIComponent(file.name.slice(0, 200))
  return (await upload(`${uploadFile.path}?name=${name}`, file, progress)) as StoredFile
}
