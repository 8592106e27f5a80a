import { lazy, type ComponentType } from "react";

const loads: (() => Promise<unknown>)[] = [];

/** What the first screen does without: it comes when that screen is there, so that it is there sooner. */
function later<Props>(load: () => Promise<ComponentType<Props>>) {
  const once = () => load().then((part) => ({ default: part }));
  loads.push(once);
  return lazy(once);
}

export const SeparateStep = later(() =>
  import("../steps/separate/SeparateStep").then((all) => all.SeparateStep),
);
export const RoomStep = later(() => import("../steps/room/RoomStep").then((all) => all.RoomStep));
export const HandoverStep = later(() =>
  import("../steps/handover/HandoverStep").then((all) => all.HandoverStep),
);
export const LogStep = later(() => import("../steps/log/LogStep").then((all) => all.LogStep));
export const StockStep = later(() =>
  import("../steps/stock/StockStep").then((all) => all.StockStep),
);
export const Long = later(() => import("./Long").then((all) => all.Long));

/** Has all of it, while the server is there. */
export const loadAll = () => void Promise.allSettled(loads.map((load) => load()));
