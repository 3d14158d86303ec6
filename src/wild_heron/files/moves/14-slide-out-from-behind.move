{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Slide out from behind",
  "line": "Slides sideways out from behind whatever stands before the subject.",
  "tags": [
   "lively",
   "reveal"
  ],
  "frames": 96.0,
  "nodes": [
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "channels": [
     {
      "name": "position.x",
      "value": -1.5,
      "keys": [
       {
        "frame": 0.0,
        "value": -1.5,
        "span": {
         "type": "family",
         "name": "cubic",
         "direction": "out"
        }
       },
       {
        "frame": 96.0,
        "value": 0.0,
        "span": {
         "type": "family",
         "name": "cubic",
         "direction": "out"
        }
       }
      ]
     },
     {
      "name": "position.z",
      "value": 2.7,
      "keys": [
       {
        "frame": 0.0,
        "value": 2.7,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 96.0,
        "value": 3.0,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       }
      ]
     }
    ],
    "binds": [
     {
      "type": "aim",
      "targets": [
       "base"
      ]
     }
    ]
   }
  ],
  "camera": "camera",
  "focuses": true
 }
}
