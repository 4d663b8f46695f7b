/** Words of stills/DownloadDialog.tsx. */
export const downloadStills = "Download stills";
export const format = "Format";
export const fileNames = "File names";
export const inOneZipFile = (ready: string | number, what: string | number) =>
  `${ready} ${what} in one ZIP file.`;
export const leftOutNotFinished = (left: string | number) =>
  ` ${left} left out: not finished, or not kept in this format.`;
export const cancel = "Cancel";
export const download = "Download";
export const picture = "picture";
export const pictures = "pictures";
