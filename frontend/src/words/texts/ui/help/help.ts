/** Words of ui/help/help.ts. */
export const howFarTheSurface = "How far the surface spreads what it mirrors: 0 is a mirror, 0.6 is matt.";
export const no0IsPlasticOr = "0 is plastic or paint, 1 is metal: metal mirrors in its own colour.";
export const howMuchMoreA = "How much more a brushed surface spreads light across its lines than along them.";
export const howStronglyAClear =
  "How strongly a clear body bends light, and how much its surface mirrors: water 1.33, glass 1.5.";
export const howDeepLightGoes =
  "How deep light goes before it has the colour below. Shallow is strongly tinted.";
export const aClearLacquerOver = "A clear lacquer over the surface: it mirrors sharply, whatever is beneath.";
export const fineHairOnThe = "Fine hair on the surface, as on felt or soft-touch: edges turn bright.";
export const howFarLightWanders =
  "How far light wanders beneath the surface: far is milky, like wax or silicone.";
export const aShortLensStands =
  "A short lens stands near and exaggerates depth; a long one stands back and flattens it.";
export const aSmallFNumber = "A small f-number leaves little sharp before and behind the point of focus.";
export const lightThatTheLens = "Light that the lens spreads around bright points. None is added.";
export const howMuchOfThe = "How much of the product the floor mirrors.";
export const howDarkTheShadow = "How dark the shadow on the floor is; 1 is what the light gives.";
export const sharpEdgesOfCad = "Sharp edges of CAD, rounded for the light: real edges catch it.";
