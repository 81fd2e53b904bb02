package board

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"io"
	"path"
	"regexp"
	"strings"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/internal/route"
	"gobbet/internal/store/library"
	"gobbet/internal/store/pieces"
	"gobbet/internal/studio/parts"
	"gobbet/internal/templates"
	"gobbet/internal/uploads"
)

// A piece as a file is a zip of piece.json, the pictures it holds as
// pictures/HASH.EXT and its files as files/HASH/NAME. The document carries the
// style kit it was written with.

const documentName = "piece.json"

func (s *Place) exportPiece(c *route.Call, _ route.None) error {
	site := c.Site
	_, draft, err := s.read.Draft(c, c.Param("piece"))
	if err != nil {
		return err
	}
	book, err := s.store.Reaches.Book(c, site.ID)
	if err != nil {
		return err
	}
	// Elsewhere the site's saved reaches are not known: they are written out.
	draft.Rule, draft.Kit = reach.Expand(draft.Rule, book), &site.Kit
	// Bodies are in memory while they are packed, like those of uploads.
	release, err := c.Hold(maxImport)
	if err != nil {
		return err
	}
	defer release()
	body, err := s.pack(c, draft)
	if err != nil {
		return err
	}
	c.Writer.Header().Set("Content-Disposition", `attachment; filename="`+plainName(draft.Name)+`.zip"`)
	c.Data("application/zip", body)
	return nil
}

var notPlain = regexp.MustCompile(`[^A-Za-z0-9]+`)

func plainName(name string) string {
	name = strings.Trim(notPlain.ReplaceAllString(name, "-"), "-")
	return strings.ToLower(name[:min(len(name), 60)]) + "-gobbet"
}

func (s *Place) pack(c *route.Call, p *piece.Piece) ([]byte, error) {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	add := func(name string, body []byte) error {
		w, err := z.Create(name)
		if err == nil {
			_, err = w.Write(body)
		}
		return err
	}
	doc, err := json.MarshalIndent(p, "", "  ")
	if err != nil {
		return nil, err
	}
	if err := add(documentName, doc); err != nil {
		return nil, err
	}
	for _, hash := range p.Pictures() {
		if _, ours := templates.Art(hash); ours {
			continue
		}
		picture, err := s.store.Library.Picture(c, hash)
		if errors.Is(err, fault.ErrNotFound) {
			continue // the notes say so
		}
		if err == nil {
			err = add("pictures/"+hash+"."+strings.TrimPrefix(picture.Mime, "image/"), picture.Body)
		}
		if err != nil {
			return nil, err
		}
	}
	packed := map[string]bool{}
	for _, v := range p.Split.Variants {
		for _, hash := range v.Design.Files() {
			if packed[hash] {
				continue
			}
			packed[hash] = true
			file, err := s.store.Library.File(c, hash)
			if errors.Is(err, fault.ErrNotFound) {
				continue
			}
			if err == nil {
				err = add("files/"+hash+"/"+file.Name, file.Body)
			}
			if err != nil {
				return nil, err
			}
		}
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

const maxEntries = 300

// importPiece makes a piece of a file: a zip as exportPiece writes it, or the
// document alone.
func (s *Place) importPiece(c *route.Call, _ route.None, raw []byte) (answer parts.PieceInfo, err error) {
	doc, pictures, files := raw, map[string][]byte{}, map[string]library.File{}
	if bytes.HasPrefix(raw, []byte("PK")) {
		if doc, pictures, files, err = unpack(raw); err != nil {
			return answer, err
		}
	}
	// Read before anything is kept, so that a broken file leaves nothing behind.
	if _, err = s.read.Piece(c, doc); err != nil {
		return answer, err
	}
	site := c.Site
	for hash, body := range pictures {
		p, err := s.decode.Picture(c, body)
		if err == nil {
			p.Name = "from a file"
			err = s.store.Library.AddPicture(c, site.ID, p)
		}
		if err != nil {
			return answer, err
		}
		// Written anew, a picture may have another name than it had.
		doc = bytes.ReplaceAll(doc, []byte(`"`+hash+`"`), []byte(`"`+p.Hash+`"`))
	}
	for hash, f := range files {
		if err := s.store.Library.AddFile(c, site.ID, f); err != nil {
			return answer, err
		}
		doc = bytes.ReplaceAll(doc, []byte(`"`+hash+`"`), []byte(`"`+f.Hash+`"`))
	}
	draft, err := s.read.Piece(c, doc)
	if err != nil {
		return answer, err
	}
	draft.Kit, draft.Split.Salt = nil, pieces.NewID()
	clean, err := json.Marshal(draft)
	id := pieces.NewID()
	if err == nil {
		err = s.store.Pieces.Add(c, site.ID, id, clean)
	}
	if err != nil {
		return answer, err
	}
	return s.read.Info(c, id)
}

// unpack reads a zip within bounds, whatever it says of its own sizes.
func unpack(raw []byte) (doc []byte, pictures map[string][]byte, files map[string]library.File, err error) {
	refuse := func(message string) ([]byte, map[string][]byte, map[string]library.File, error) {
		return nil, nil, nil, fault.Fault{At: "file", Message: message}
	}
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return refuse("This zip is damaged and cannot be read.")
	}
	if len(z.File) > maxEntries {
		return refuse("This zip holds more files than a piece has.")
	}
	pictures, files = map[string][]byte{}, map[string]library.File{}
	left := int64(maxImport)
	for _, entry := range z.File {
		if strings.HasSuffix(entry.Name, "/") {
			continue
		}
		r, err := entry.Open()
		if err != nil {
			return refuse("This zip is damaged and cannot be read.")
		}
		body, err := io.ReadAll(io.LimitReader(r, left+1))
		r.Close()
		if left -= int64(len(body)); left < 0 {
			return refuse("This zip unpacks to more than can be taken.")
		}
		if err != nil {
			return refuse("This zip is damaged and cannot be read.")
		}
		parts := strings.Split(entry.Name, "/")
		switch {
		case entry.Name == documentName:
			doc = body
		case len(parts) == 2 && parts[0] == "pictures":
			if hash := strings.TrimSuffix(parts[1], path.Ext(parts[1])); uploads.IsHash(hash) {
				pictures[hash] = body
			}
		case len(parts) == 3 && parts[0] == "files" && uploads.IsHash(parts[1]):
			f, err := uploads.ReadFile(parts[2], body)
			if err != nil {
				return nil, nil, nil, err
			}
			files[parts[1]] = f
		}
	}
	if doc == nil {
		return refuse("This zip holds no piece.json.")
	}
	return doc, pictures, files, nil
}
