/** Words of drawer/ExchangeFile.tsx. */
export const otherFile = "Other file";
export const exchangeFile = "Exchange file…";
export const inAllDecalsThat = (users: string | number) => `in all ${users} decals that use it`;
