/** How dates and numbers are written here: as in the region of the app, or as the browser does. */
export const region = () => document.documentElement.dataset.region || undefined;
