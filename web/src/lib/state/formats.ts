import type { Schemas } from '$lib/api/client';

/** The formats labels are written in and read from, in the words of the trade. */
export const formats: [Schemas['Format'], string][] = [
  ['coco', 'COCO'],
  ['coco-panoptic', 'COCO panoptic'],
  ['voc', 'Pascal VOC with masks'],
  ['yolo', 'YOLO boxes'],
  ['yolo-turned', 'YOLO turned boxes'],
  ['yolo-segments', 'YOLO segments'],
  ['yolo-pose', 'YOLO pose'],
  ['masks', 'mask PNGs'],
  ['csv', 'CSV tables'],
  ['mot', 'MOT tracks'],
  ['nifti', 'NIfTI label maps'],
  ['cuboids', 'cuboids as CSV and JSON'],
  ['kitti', 'KITTI'],
  ['points', 'classes of points'],
  ['conll', 'CoNLL'],
  ['jsonl', 'JSONL with Web Annotations'],
  ['skeno', 'Skeno JSON']
];
