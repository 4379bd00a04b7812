import type { Forecast } from "../api/client";

/** Watts that add up: 700 in at the front, 200 for the car, 500 into the run, of which 20 are lost. */
export const forecast = {
  explanation: "",
  front_v: 13.3,
  path: {
    nodes: [
      { name: "front", words: "front", volts: 13.3 },
      { name: "amp:a1", words: "Marram", volts: 12.8 },
    ],
    sources: [
      {
        name: "Alternator",
        field: "chargers.0",
        kind: "charger",
        node: "front",
        amps: 45,
        watts: 600,
        at_limit: true,
      },
      {
        name: "Battery",
        field: "banks.0",
        kind: "bank",
        node: "front",
        amps: 8,
        watts: 100,
        at_limit: false,
      },
      { name: "Spare", field: "banks.1", kind: "bank", node: "front", amps: 0, watts: 0, at_limit: false },
    ],
    edges: [
      { name: "Main run", start: "front", end: "amp:a1", amps: 38, drop_v: 0.5, heat_w: 20, watts_out: 480 },
    ],
    vehicle_a: 15,
    vehicle_w: 200,
  },
  amplifiers: [
    {
      id: "a1",
      name: "Marram",
      node: "amp:a1",
      terminal_v: 12.8,
      delivered_mean_w: 370,
      lead_heat_w: 5,
      heat_w: 105,
    },
  ],
} as unknown as Forecast;
