export { default as Badges } from "./Badges";
export { default as Bar } from "./Bar";
export { default as Chart } from "./Chart";
export { default as Figure } from "./Figure";
