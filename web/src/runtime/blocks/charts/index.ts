export { default as Chart } from "./Chart";
export { default as Figure } from "./Figure";
