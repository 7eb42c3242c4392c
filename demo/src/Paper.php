<?php

declare(strict_types=1);

namespace Skeno\Demo;

use FPDF;

/** A PDF that is the same bytes whenever it is made. */
final class Paper extends FPDF
{
    private bool $askew = false;

    /** @param  float  $across  points, $down likewise */
    public function __construct(private readonly float $across, private readonly float $down)
    {
        parent::__construct('P', 'pt', [$across, $down]);
        $this->SetAutoPageBreak(false);
        $this->SetCreator('Larkmoor Orchard Trials');
    }

    /** A new page; by so many degrees it lies askew, clockwise about its middle, as on a scanner. */
    public function begin(float $degrees = 0.0): void
    {
        $this->AddPage();
        $this->askew = $degrees !== 0.0;
        if ($this->askew) {
            [$sin, $cos] = [sin(deg2rad(-$degrees)), cos(deg2rad(-$degrees))];
            [$x, $y] = [$this->across / 2, $this->down / 2];
            $this->_out(sprintf('q %.5F %.5F %.5F %.5F %.5F %.5F cm', $cos, $sin, -$sin, $cos, $x - $cos * $x + $sin * $y, $y - $sin * $x - $cos * $y));
        }
    }

    /** How wide words are in the font in use, in points. */
    public function wide(string $words): float
    {
        $width = $this->GetStringWidth($words);

        return is_numeric($width) ? (float) $width : 0.0;
    }

    protected function _endpage(): void
    {
        if ($this->askew) {
            $this->_out('Q');
        }
        $this->askew = false;
        parent::_endpage();
    }

    protected function _putinfo(): void
    {
        $this->CreationDate = 1_780_000_000;
        parent::_putinfo();
    }
}
