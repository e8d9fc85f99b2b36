package standards

import (
	"fmt"
	"strconv"
	"strings"
)

// ISO 286-1:2010, table 1: standard tolerances IT5 to IT13 in micrometres, by nominal size
// up to and including the first figure, mm (values from memory).
var standardTolerances = []struct {
	upTo  float64
	grade [9]float64
}{
	{3, [9]float64{4, 6, 10, 14, 25, 40, 60, 100, 140}},
	{6, [9]float64{5, 8, 12, 18, 30, 48, 75, 120, 180}},
	{10, [9]float64{6, 9, 15, 22, 36, 58, 90, 150, 220}},
	{18, [9]float64{8, 11, 18, 27, 43, 70, 110, 180, 270}},
	{30, [9]float64{9, 13, 21, 33, 52, 84, 130, 210, 330}},
	{50, [9]float64{11, 16, 25, 39, 62, 100, 160, 250, 390}},
	{80, [9]float64{13, 19, 30, 46, 74, 120, 190, 300, 460}},
	{120, [9]float64{15, 22, 35, 54, 87, 140, 220, 350, 540}},
	{180, [9]float64{18, 25, 40, 63, 100, 160, 250, 400, 630}},
	{250, [9]float64{20, 29, 46, 72, 115, 185, 290, 460, 720}},
	{315, [9]float64{23, 32, 52, 81, 130, 210, 320, 520, 810}},
	{400, [9]float64{25, 36, 57, 89, 140, 230, 360, 570, 890}},
	{500, [9]float64{27, 40, 63, 97, 155, 250, 400, 630, 970}},
}

// ISO 286-1:2010, tables 4 and 5: fundamental deviations of shafts in micrometres (values
// from memory). c to g are the upper deviation es, k to s the lower one ei. Sizes are up to
// and including the first figure, mm.
var fundamentalDeviations = []struct {
	upTo                         float64
	c, d, e, f, g, k, m, n, p, r float64
	s                            float64
}{
	{3, -60, -20, -14, -6, -2, 0, 2, 4, 6, 10, 14},
	{6, -70, -30, -20, -10, -4, 1, 4, 8, 12, 15, 19},
	{10, -80, -40, -25, -13, -5, 1, 6, 10, 15, 19, 23},
	{18, -95, -50, -32, -16, -6, 1, 7, 12, 18, 23, 28},
	{30, -110, -65, -40, -20, -7, 2, 8, 15, 22, 28, 35},
	{40, -120, -80, -50, -25, -9, 2, 9, 17, 26, 34, 43},
	{50, -130, -80, -50, -25, -9, 2, 9, 17, 26, 34, 43},
	{65, -140, -100, -60, -30, -10, 2, 11, 20, 32, 41, 53},
	{80, -150, -100, -60, -30, -10, 2, 11, 20, 32, 43, 59},
	{100, -170, -120, -72, -36, -12, 3, 13, 23, 37, 51, 71},
	{120, -180, -120, -72, -36, -12, 3, 13, 23, 37, 54, 79},
	{140, -200, -145, -85, -43, -14, 3, 15, 27, 43, 63, 92},
	{160, -210, -145, -85, -43, -14, 3, 15, 27, 43, 65, 100},
	{180, -230, -145, -85, -43, -14, 3, 15, 27, 43, 68, 108},
	{200, -240, -170, -100, -50, -15, 4, 17, 31, 50, 77, 122},
	{225, -260, -170, -100, -50, -15, 4, 17, 31, 50, 80, 130},
	{250, -280, -170, -100, -50, -15, 4, 17, 31, 50, 84, 140},
	{280, -300, -190, -110, -56, -17, 4, 20, 34, 56, 94, 158},
	{315, -330, -190, -110, -56, -17, 4, 20, 34, 56, 98, 170},
	{355, -360, -210, -125, -62, -18, 4, 21, 37, 62, 108, 190},
	{400, -400, -210, -125, -62, -18, 4, 21, 37, 62, 114, 208},
	{450, -440, -230, -135, -68, -20, 5, 23, 40, 68, 126, 232},
	{500, -480, -230, -135, -68, -20, 5, 23, 40, 68, 132, 252},
}

// ITGrade is the standard tolerance of ISO 286-1 for a nominal size, in mm: grades 5 to 13,
// sizes above 0 and up to 500 mm.
func ITGrade(grade int, nominal float64) (float64, error) {
	if grade < 5 || grade > 13 {
		return 0, fmt.Errorf("tolerance grade IT%d is not in the table: use IT5 to IT13", grade)
	}
	if nominal > 0 {
		for _, r := range standardTolerances {
			if nominal <= r.upTo {
				return r.grade[grade-5] / 1000, nil
			}
		}
	}
	return 0, fmt.Errorf("ISO 286 fits are tabled for sizes up to 500 mm, not for %g mm", nominal)
}

// Fit gives the lower and upper limit deviation (mm) of a tolerance class of ISO 286 such
// as "H7" (a hole) or "g6" (a shaft) at a nominal size. Classes c to h, js, k, m, n, p, r
// and s with grades 5 to 13 are known.
//
// A hole's upper deviation is the shaft's lower one with the sign turned; for K, M and N up
// to IT8 and P to S up to IT7 above 3 mm it is raised by the difference to the next finer
// grade (ISO 286-1:2010, 4.3.2.5).
func Fit(class string, nominal float64) (lower, upper float64, err error) {
	letters := strings.TrimRight(class, "0123456789")
	grade, err := strconv.Atoi(class[len(letters):])
	if err != nil || letters == "" {
		return 0, 0, fmt.Errorf("%q is not a tolerance class of ISO 286: write it as H7 or g6", class)
	}
	it, err := ITGrade(grade, nominal)
	if err != nil {
		return 0, 0, err
	}
	hole := letters == strings.ToUpper(letters)
	if !hole && letters != strings.ToLower(letters) {
		return 0, 0, fmt.Errorf("%q is not a tolerance class of ISO 286: capitals are holes, small letters shafts", class)
	}
	letter := strings.ToLower(letters)
	if letter == "js" {
		return -it / 2, it / 2, nil
	}
	row := fundamentalDeviations[len(fundamentalDeviations)-1]
	for _, r := range fundamentalDeviations {
		if nominal <= r.upTo {
			row = r
			break
		}
	}
	above := map[string]float64{"c": row.c, "d": row.d, "e": row.e, "f": row.f, "g": row.g, "h": 0} // es of a shaft
	if es, ok := above[letter]; ok {
		es /= 1000
		if hole {
			return -es, -es + it, nil
		}
		return es - it, es, nil
	}
	below := map[string]float64{"k": row.k, "m": row.m, "n": row.n, "p": row.p, "r": row.r, "s": row.s} // ei of a shaft
	ei, ok := below[letter]
	switch {
	case !ok:
		return 0, 0, fmt.Errorf("%q is not in the table of fits: use c to h, js, k, m, n, p, r or s", letters)
	case hole:
		es, err := tightHole(letter, grade, nominal, ei/1000, it)
		if err != nil {
			return 0, 0, fmt.Errorf("%s: %w", class, err)
		}
		return es - it, es, nil
	case letter == "k" && (grade > 7 || nominal <= 3):
		ei = 0
	}
	return ei / 1000, ei/1000 + it, nil
}

// tightHole is the upper deviation ES of a hole that is tighter than its nominal: that of the shaft
// turned round, and for the finer grades moved by the difference to the next finer grade, so that
// fits of a hole and of a shaft are alike (ISO 286-1).
func tightHole(letter string, grade int, nominal, ei, it float64) (float64, error) {
	switch finer := letter == "k" || letter == "m" || letter == "n"; {
	case nominal <= 3 && letter != "n" || nominal <= 3 && grade <= 8:
	case finer && grade <= 8 || !finer && grade <= 7:
		next, err := ITGrade(grade-1, nominal)
		if err != nil {
			return 0, err
		}
		return -ei + it - next, nil
	case letter == "n":
		return 0, nil
	case letter == "k":
		return 0, fmt.Errorf("there is no such hole above 3 mm in ISO 286")
	}
	return -ei, nil
}
