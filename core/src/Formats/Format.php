<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

use Closure;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Yolo\YoloKind;
use Skeno\Core\Formats\Yolo\YoloLayout;
use Skeno\Core\Geometry\Cuboid;

/** The formats labels are written in and read from. Adding one: a case here, a writer, a reader, and their tests. */
enum Format: string
{
    case Coco = 'coco';
    case CocoPanoptic = 'coco-panoptic';
    case Voc = 'voc';
    case Yolo = 'yolo';
    case YoloTurned = 'yolo-turned';
    case YoloSegments = 'yolo-segments';
    case YoloPose = 'yolo-pose';
    case Masks = 'masks';
    case Csv = 'csv';
    case Mot = 'mot';
    case Nifti = 'nifti';
    case Cuboids = 'cuboids';
    case Kitti = 'kitti';
    case Points = 'points';
    case Conll = 'conll';
    case Jsonl = 'jsonl';
    case Skeno = 'skeno';

    public function label(): string
    {
        return match ($this) {
            self::Coco => 'COCO',
            self::CocoPanoptic => 'COCO panoptic',
            self::Voc => 'Pascal VOC with masks',
            self::Yolo => 'YOLO boxes',
            self::YoloTurned => 'YOLO turned boxes',
            self::YoloSegments => 'YOLO segments',
            self::YoloPose => 'YOLO pose',
            self::Masks => 'mask PNGs',
            self::Csv => 'CSV tables',
            self::Mot => 'MOT tracks',
            self::Nifti => 'NIfTI label maps',
            self::Cuboids => 'cuboids as CSV and JSON',
            self::Kitti => 'KITTI',
            self::Points => 'classes of points',
            self::Conll => 'CoNLL',
            self::Jsonl => 'JSONL with Web Annotations',
            self::Skeno => 'Skeno JSON',
        };
    }

    /** Whether its files can lie in one of several layouts. */
    public function hasLayouts(): bool
    {
        return in_array($this, [self::Yolo, self::YoloTurned, self::YoloSegments, self::YoloPose], true);
    }

    /** Whether it holds tracks along an axis; of clips the others hold chosen frames as pictures. */
    public function holdsTracks(): bool
    {
        return $this->holdsOnlyTracks() || $this === self::Skeno;
    }

    /** Whether it holds nothing but tracks. */
    public function holdsOnlyTracks(): bool
    {
        return $this === self::Mot || $this === self::Nifti || $this === self::Cuboids || $this === self::Kitti || $this === self::Points;
    }

    /** Whether an item is of a kind it is made for, where it is made for one alone. */
    public function isFor(DatasetItem $item): bool
    {
        if ($item->frames !== null) {
            return $this->holdsClouds() && ($this !== self::Kitti || Kitti\KittiWriter::camera($item) !== null);
        }

        return match ($this) {
            self::Mot => $item->axis !== null,
            self::Nifti => $item->scan !== null,
            self::Cuboids, self::Kitti, self::Points => false,
            self::Conll => $item->text !== null,
            self::Jsonl => $item->text !== null || $item->sheets !== null,
            default => true,
        };
    }

    /** Whether it holds clouds: as pictures nobody can see a cuboid. */
    public function holdsClouds(): bool
    {
        return in_array($this, [self::Cuboids, self::Kitti, self::Points, self::Skeno], true);
    }

    /** Whether it holds texts beside pictures. */
    public function holdsTexts(): bool
    {
        return $this === self::Csv || $this === self::Skeno || $this->holdsOnlyTexts();
    }

    /** Whether it holds nothing on planes but documents. */
    public function holdsOnlyTexts(): bool
    {
        return $this === self::Conll || $this === self::Jsonl;
    }

    /** Whether it holds whole documents; of them the others hold their pages as pictures. */
    public function holdsDocuments(): bool
    {
        return $this === self::Jsonl || $this === self::Skeno;
    }

    /** @param  ?Closure(DatasetItem, int, non-empty-list<Cuboid>): list<int>  $points  how many points of a frame of a cloud lie in cuboids; null: nobody knows */
    public function writer(Codebook $codebook, YoloLayout $layout = YoloLayout::Folders, ?Closure $points = null): DatasetWriter
    {
        return match ($this) {
            self::Coco => new Coco\CocoWriter($codebook),
            self::CocoPanoptic => new Panoptic\PanopticWriter($codebook),
            self::Voc => new Voc\VocWriter($codebook),
            self::Yolo => new Yolo\YoloWriter($codebook, YoloKind::Boxes, $layout),
            self::YoloTurned => new Yolo\YoloWriter($codebook, YoloKind::Turned, $layout),
            self::YoloSegments => new Yolo\YoloWriter($codebook, YoloKind::Segments, $layout),
            self::YoloPose => new Yolo\YoloWriter($codebook, YoloKind::Pose, $layout),
            self::Masks => new Masks\MasksWriter($codebook),
            self::Csv => new Csv\CsvWriter($codebook),
            self::Mot => new Mot\MotWriter($codebook),
            self::Nifti => new Nifti\NiftiWriter($codebook),
            self::Cuboids => new Cuboids\CuboidsWriter($codebook, $points),
            self::Kitti => new Kitti\KittiWriter($codebook),
            self::Points => new Cuboids\PointsWriter($codebook, $points),
            self::Conll => new Conll\ConllWriter($codebook),
            self::Jsonl => new Jsonl\JsonlWriter($codebook),
            self::Skeno => new SkenoJson\SkenoJsonWriter,
        };
    }

    /**
     * What reads texts out of a file of this format, with labels where it has them; null where it holds none.
     *
     * @param  Closure(): string  $newId gives the id of each mark read
     */
    public function texts(Codebook $codebook, Closure $newId, Texts\Columns $columns): ?Texts\TextsReader
    {
        return match ($this) {
            self::Conll => new Conll\ConllReader($codebook, $newId),
            self::Jsonl => new Jsonl\JsonlReader($codebook, $newId, $columns),
            self::Csv => new Texts\Table(false, $columns),
            default => null,
        };
    }

    /** @param  Closure(): string  $newId gives the id of each mark read */
    public function reader(Codebook $codebook, Closure $newId): LabelReader
    {
        return match ($this) {
            self::Coco => new Coco\CocoReader($codebook, $newId),
            self::CocoPanoptic => new Panoptic\PanopticReader($codebook, $newId),
            self::Voc => new Voc\VocReader($codebook, $newId),
            self::Yolo => new Yolo\YoloReader($codebook, $newId),
            self::YoloTurned => new Yolo\YoloReader($codebook, $newId, YoloKind::Turned),
            self::YoloSegments => new Yolo\YoloReader($codebook, $newId, YoloKind::Segments),
            self::YoloPose => new Yolo\YoloReader($codebook, $newId, YoloKind::Pose),
            self::Masks => new Masks\MasksReader($codebook, $newId),
            self::Csv => new Csv\CsvReader($codebook, $newId),
            self::Mot => new Mot\MotReader($codebook, $newId),
            self::Nifti => new Nifti\NiftiReader($codebook, $newId),
            self::Cuboids, self::Points => new Cuboids\CuboidsReader($codebook, $newId),
            self::Kitti => new Kitti\KittiReader($codebook, $newId),
            self::Conll => new Conll\ConllReader($codebook, $newId),
            self::Jsonl => new Jsonl\JsonlReader($codebook, $newId),
            self::Skeno => new SkenoJson\SkenoJsonReader($codebook, $newId),
        };
    }
}
