import {
  ClockIcon,
  EnvelopeIcon,
  ExclamationTriangleIcon,
  GlobeAltIcon,
  PhotoIcon,
  RectangleStackIcon,
  Squares2X2Icon,
  SwatchIcon,
} from "@heroicons/vue/24/outline"

/** What belongs to a site beside its pages and parts. */
export const sitePlaces = [
  { to: "looks", says: "Looks", icon: SwatchIcon },
  { to: "pictures", says: "Pictures and logo", icon: PhotoIcon },
  { to: "records", says: "Records", icon: RectangleStackIcon },
  { to: "forms", says: "Forms", icon: EnvelopeIcon },
  { to: "faults", says: "Faults", icon: ExclamationTriangleIcon },
  { to: "history", says: "History", icon: ClockIcon },
  { to: "proposals", says: "What repeats", icon: Squares2X2Icon },
  { to: "publishing", says: "Publishing", icon: GlobeAltIcon },
]
