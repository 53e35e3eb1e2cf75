package files

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"errors"
	"image"
	"io"

	"github.com/disintegration/imaging"
)

// jpegHead is what the first parts of a JPEG tell.
type jpegHead struct {
	turned      int  // how the picture is to be turned, the tag Orientation of Exif: 1 to 8
	progressive bool // all of its coefficients are held until the last comes
}

// Markers of JPEG, ITU-T T.81.
const (
	markStart       = 0xd8
	markExif        = 0xe1
	markProgressive = 0xc2
	markScan        = 0xda
)

// mostParts is how many parts of a JPEG are looked at before its picture.
const mostParts = 200

// headOf reads the parts of a JPEG before its picture. What cannot be read tells
// nothing; whether it is a picture at all, its decoder says.
func headOf(r io.Reader) (jpegHead, error) {
	out := jpegHead{turned: 1}
	in := bufio.NewReader(r)
	var two [2]byte
	for range mostParts {
		if _, err := io.ReadFull(in, two[:]); err != nil {
			return out, ended(err)
		}
		if two[0] != 0xff {
			return out, nil
		}
		mark := two[1]
		if mark == markStart {
			continue
		}
		if mark == markScan {
			return out, nil
		}
		out.progressive = out.progressive || mark == markProgressive
		if _, err := io.ReadFull(in, two[:]); err != nil {
			return out, ended(err)
		}
		length := int(binary.BigEndian.Uint16(two[:])) - 2
		if length < 0 {
			return out, nil
		}
		if mark != markExif {
			if _, err := in.Discard(length); err != nil {
				return out, ended(err)
			}
			continue
		}
		part := make([]byte, length)
		if _, err := io.ReadFull(in, part); err != nil {
			return out, ended(err)
		}
		if n := orientation(part); n != 0 {
			out.turned = n
		}
	}
	return out, nil
}

// ended makes of a picture that ends early one of which no more is told.
func ended(err error) error {
	if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
		return nil
	}
	return err
}

// orientation finds the tag in the Exif part of a JPEG, as CIPA DC-008 says; 0 where
// there is none.
func orientation(part []byte) int {
	tiff, is := bytes.CutPrefix(part, []byte("Exif\x00\x00"))
	if !is || len(tiff) < 8 {
		return 0
	}
	var order binary.ByteOrder
	switch string(tiff[:2]) {
	case "II":
		order = binary.LittleEndian
	case "MM":
		order = binary.BigEndian
	default:
		return 0
	}
	at := uint64(order.Uint32(tiff[4:]))
	if at+2 > uint64(len(tiff)) {
		return 0
	}
	const tag, size = 0x0112, 12
	entries := tiff[at+2:]
	for range order.Uint16(tiff[at:]) {
		if len(entries) < size {
			return 0
		}
		if order.Uint16(entries) == tag {
			if n := int(order.Uint16(entries[8:])); n >= 1 && n <= 8 {
				return n
			}
			return 0
		}
		entries = entries[size:]
	}
	return 0
}

// turn turns a picture as its orientation says.
func turn(p image.Image, orientation int) image.Image {
	switch orientation {
	case 2:
		return imaging.FlipH(p)
	case 3:
		return imaging.Rotate180(p)
	case 4:
		return imaging.FlipV(p)
	case 5:
		return imaging.Transpose(p)
	case 6:
		return imaging.Rotate270(p)
	case 7:
		return imaging.Transverse(p)
	case 8:
		return imaging.Rotate90(p)
	}
	return p
}
