/** The file of the package that Node can load as it is; faces as loops of points, counter-clockwise seen from outside. */
declare module 'quickhull3d/dist/quickhull3d.js' {
  export { default } from 'quickhull3d'
}
