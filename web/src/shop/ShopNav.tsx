import { PartsNav } from "../ui/PartsNav";

const PARTS = [
  ["/shop", "Settings"],
  ["/shop/people", "People"],
  ["/shop/records", "Records"],
  ["/shop/data", "Data"],
  ["/shop/you", "You"],
] as const;

/** The parts of the shop. */
export function ShopNav() {
  return <PartsNav label="Parts of the shop" parts={PARTS} />;
}
