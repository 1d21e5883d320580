// Styles that are made as the page runs bear the number that the server allowed for this page alone; the
// style packages look for it here. Loaded before them.
export const { content: nonce } = document.querySelector<HTMLMetaElement>('meta[property="csp-nonce"]')!;
Object.assign(globalThis, { __webpack_nonce__: nonce });
