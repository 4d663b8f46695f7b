/** Words of desk/DropFile.tsx. */
export const furtherModelsInThis = "further models in this review";
export const dropARevisionFurther = "Drop: a revision, further models, or a review of its own";
export const is = (name: string | number) => `${name} is…`;
export const theNextRevisionOf = (name: string | number) => `the next revision of ${name}`;
export const aFurtherModelIn = "a further model in this review";
export const aReviewOfIts = "a review of its own";
