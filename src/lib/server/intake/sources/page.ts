import { picturesOfPage, type PagePicture } from '#core/uploads/pagePictures';

/** The pictures of a web page; run apart. */
export const picturesIn = async (wish: {
  html: string;
  base: string;
  most: number;
}): Promise<PagePicture[]> => picturesOfPage(wish.html, wish.base).slice(0, wish.most);
