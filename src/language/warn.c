#include "front.h"

void fg_check_warnings(fg_front *f) { (void)f; }
